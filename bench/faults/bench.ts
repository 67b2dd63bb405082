/** `npm run bench -- faults --rounds 200`: recordings under random faults, and how much of them is lost. */

import type { BenchOptions, Figure } from '#bench/report/report.ts'
import { random } from '#tests/made/sound.ts'
import { canFillDisks, FAULTS, type Outcome, playRound } from './round.ts'

const USUAL_ROUNDS = 12
/** Most faults are short; one in ten lasts up to two minutes, as a lost network does. */
const LONG_SHARE = 0.1

export async function bench({ seed, rounds }: BenchOptions): Promise<Figure[]> {
  const next = random(seed)
  const faults = FAULTS.filter((fault) => fault !== 'disk full' || canFillDisks())
  const outcomes: Outcome[] = []
  for (let round = 0; round < (rounds ?? USUAL_ROUNDS); round++) {
    const fault = faults[Math.floor(next() * faults.length)]!
    const long = fault === 'network dropped' && next() < LONG_SHARE
    const during = long ? 10 + 110 * next() : 3 * next()
    outcomes.push(await playRound(fault, { before: 1.5 + 4 * next(), during }))
    process.stderr.write(`\r${round + 1} rounds`)
  }
  process.stderr.write('\n')
  const of = (fault: string) => outcomes.filter((o) => o.fault === fault)
  const most = (list: Outcome[], get: (o: Outcome) => number) => Math.max(0, ...list.map(get))
  const sum = (list: Outcome[], get: (o: Outcome) => number) => list.reduce((total, o) => total + get(o), 0)
  const others = outcomes.filter((o) => o.fault !== 'browser killed')
  const lostAcknowledged = sum(outcomes, (o) => o.lostAcknowledged)
  const lostElse = sum(others, (o) => o.lost)
  const lostByBrowser = most(of('browser killed'), (o) => o.lost) / 48_000
  return [
    {
      name: `sound lost of what was acknowledged, ${outcomes.length} faults`,
      value: lostAcknowledged,
      goal: '0',
      unit: `samples of ${sum(outcomes, (o) => o.acknowledged)}`,
      ok: lostAcknowledged === 0,
    },
    { name: 'sound lost at all, browser alive', value: lostElse, goal: '0', unit: 'samples', ok: lostElse === 0 },
    {
      name: 'sound lost of what was not acknowledged, browser killed, worst',
      value: lostByBrowser,
      goal: '≤ 1',
      unit: 's',
      ok: lostByBrowser <= 1,
    },
    {
      name: 'pictures lost of what was acknowledged',
      value: sum(outcomes, (o) => o.pictures.lostAcknowledged),
      goal: '0',
      unit: `of ${sum(outcomes, (o) => o.pictures.acknowledged)}`,
      ok: sum(outcomes, (o) => o.pictures.lostAcknowledged) === 0,
    },
    {
      name: 'pictures lost at all, browser alive',
      value: sum(others, (o) => o.pictures.lost),
      goal: '0',
      unit: 'pictures',
      ok: sum(others, (o) => o.pictures.lost) === 0,
    },
    ...faults.map((fault) => ({
      name: `${fault}: rounds, and whole after at most`,
      value: most(of(fault), (o) => o.wholeAfter),
      goal: '–',
      unit: `s of ${of(fault).length}`,
      ok: null,
    })),
  ]
}
