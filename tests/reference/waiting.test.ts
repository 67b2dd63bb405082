/** The queue of the bench of scale, beside what theory says of queues. */
import { expect, test } from 'vitest'
import { type Arrival, simulate } from '#bench/scale/queue.ts'
import { randomOf } from '#bench/school/measure.ts'

const task = (at: number, seconds: number, priority = 1): Arrival => ({ at, seconds, priority })

test('one after another, the most urgent first, nothing broken off', () => {
  const done = simulate([task(0, 10, 3), task(1, 2, 3), task(2, 3, 1)], 1)
  expect(done.map(({ began, ended }) => [began, ended])).toEqual([
    [0, 10],
    [10, 13],
    [13, 15],
  ])
  expect(simulate([task(5, 1)], 2)).toMatchObject([{ began: 5, ended: 6 }])
  expect(simulate([task(0, 4), task(0, 4)], 2).map(({ ended }) => ended)).toEqual([4, 4])
})

/** One server, Poisson arrivals, fixed service times: ρ·s / (2·(1 − ρ)). @see Pollaczek and Khinchine's formula, in Kleinrock, Queueing Systems, vol. 1 (1975), ch. 5; from memory */
test('waits as long as theory says', () => {
  const random = randomOf(4)
  const [service, load] = [1, 0.7]
  let at = 0
  const arrivals = Array.from({ length: 200_000 }, () => {
    at += -Math.log(1 - random()) * (service / load)
    return task(at, service)
  })
  const done = simulate(arrivals, 1)
  const waited = done.reduce((sum, one) => sum + one.began - one.at, 0) / done.length
  expect(waited).toBeGreaterThan(0.95 * ((load * service) / (2 * (1 - load))))
  expect(waited).toBeLessThan(1.05 * ((load * service) / (2 * (1 - load))))
})

/** Several servers and exponential service: at a load of 3 on 4 of them 13.5 / (13 + 13.5) = 0.509 have to wait. @see Erlang's formula of 1917, in the same book, ch. 3; from memory */
test('and so with several machines', () => {
  const random = randomOf(5)
  const exponential = (mean: number) => -Math.log(1 - random()) * mean
  let at = 0
  const arrivals = Array.from({ length: 200_000 }, () => {
    at += exponential(1 / 3)
    return task(at, exponential(1))
  })
  const waited = simulate(arrivals, 4).filter((one) => one.began > one.at + 1e-9).length / arrivals.length
  expect(waited).toBeGreaterThan(0.49)
  expect(waited).toBeLessThan(0.53)
})
