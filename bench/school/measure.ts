/** What the benches of a school's server measure with. */
import { mkdtempSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'

export const quantile = (values: readonly number[], q: number) =>
  [...values].sort((a, b) => a - b)[Math.ceil(q * values.length) - 1] ?? 0

/** Numbers between 0 and 1 that are the same for the same seed (Park and Miller 1988, the minimal standard). */
export function randomOf(seed: number) {
  let state = (seed % 2_147_483_646) + 1
  return () => {
    state = (state * 48_271) % 2_147_483_647
    return state / 2_147_483_647
  }
}

export const benchFolder = () => mkdtempSync(join(tmpdir(), 'lectern-bench-school-'))
