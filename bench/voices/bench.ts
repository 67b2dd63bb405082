/** `npm run bench -- voices [--rounds N] [--seed N]`: guests under faults, and a class that records at once. */
import type { BenchOptions, Figure } from '#bench/report/report.ts'
import { random } from '#tests/made/sound.ts'
import { canFillDisks, FAULTS, type Outcome, playRound } from '../faults/round.ts'
import { classAtOnce } from './class.ts'

const USUAL_ROUNDS = 12

export async function bench({ seed, rounds }: BenchOptions): Promise<Figure[]> {
  const next = random(seed)
  const faults = FAULTS.filter((fault) => fault !== 'disk full' || canFillDisks())
  const outcomes: Outcome[] = []
  for (let round = 0; round < (rounds ?? USUAL_ROUNDS); round++) {
    const fault = faults[Math.floor(next() * faults.length)]!
    outcomes.push(await playRound(fault, { before: 1.5 + 3 * next(), during: 3 * next(), isGuest: true }))
    process.stderr.write(`\r${round + 1} rounds`)
  }
  process.stderr.write('\n')
  const sum = (list: Outcome[], get: (o: Outcome) => number) => list.reduce((total, o) => total + get(o), 0)
  const lostAcknowledged = sum(outcomes, (o) => o.lostAcknowledged)
  const lostElse = sum(
    outcomes.filter((o) => o.fault !== 'browser killed'),
    (o) => o.lost,
  )
  return [
    {
      name: `guests: sound lost of what was acknowledged, ${outcomes.length} faults (${faults.map((fault) => `${outcomes.filter((o) => o.fault === fault).length} ${fault}`).join(', ')})`,
      value: lostAcknowledged,
      goal: '0',
      unit: `samples of ${sum(outcomes, (o) => o.acknowledged)}`,
      ok: lostAcknowledged === 0,
    },
    { name: 'guests: sound lost at all, browser alive', value: lostElse, goal: '0', unit: 'samples', ok: lostElse === 0 },
    ...(await classAtOnce()),
  ]
}
