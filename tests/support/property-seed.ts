/** Property tests try the same cases in every run, so that a run says something of the change and not of its luck; `LECTERN_SEED=any` tries others. */
import fc from 'fast-check'

const { LECTERN_SEED, LECTERN_TRIES } = process.env
fc.configureGlobal({
  ...(LECTERN_SEED === 'any' ? {} : { seed: Number(LECTERN_SEED ?? 1126) }),
  numRuns: 100 * Number(LECTERN_TRIES ?? 1),
})
