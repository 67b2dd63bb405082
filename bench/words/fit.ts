/** `npm run bench -- words-fit`: the weights of filled pauses, fitted on the half that no figure is told of. They are kept in core/captions/spoken/heard-sounds.ts. */
import type { BenchOptions, Figure } from '#bench/report/report.ts'
import { usualCleaning } from '#core/audio/render/render.ts'
import { findHum } from '#core/audio/repair/hum.ts'
import { extractFeatures } from '#core/captions/align/extract-features.ts'
import { MEASURES, measuredSounds } from '#core/captions/spoken/heard-sounds.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { PROMPT_LANGUAGES } from '../speech/prompts.ts'
import { type Filled, realVoice, syntheticVoice } from './fillers.ts'

const FLITE = ['slt', 'rms', 'awb', 'kal16']
const RIDGE = 0.5
const STEPS = 6000
const RATE = 0.4

interface Example {
  measures: number[]
  isFilled: boolean
}

function examplesOf(made: Filled): Example[] {
  const heard = extractFeatures(made.samples, usualCleaning(), findHum(made.samples))
  const truth = made.fillers.map(({ start, end }) => ({ start: toSeconds(start), end: toSeconds(end) }))
  return measuredSounds(heard).map(({ start, end, measures }) => ({
    measures,
    isFilled: truth.some((t) => Math.min(end, t.end) - Math.max(start, t.start) > 0.5 * (end - start)),
  }))
}

/** Logistic regression by gradient descent over measures of mean 0 and deviation 1. @returns weights of the measures as they are, and the constant */
function fitted(examples: readonly Example[]): number[] {
  const width = MEASURES.length
  const of = (k: number) => examples.map(({ measures }) => measures[k]!)
  const means = MEASURES.map((_, k) => of(k).reduce((a, b) => a + b, 0) / examples.length)
  const deviations = MEASURES.map((_, k) => Math.sqrt(of(k).reduce((sum, v) => sum + (v - means[k]!) ** 2, 0) / examples.length))
  const rows = examples.map(({ measures }) => measures.map((v, k) => (v - means[k]!) / deviations[k]!))
  const weights = new Array<number>(width + 1).fill(0)
  for (let step = 0; step < STEPS; step++) {
    const slope = weights.map((w, k) => (k < width ? (2 * RIDGE * w) / examples.length : 0))
    for (const [i, row] of rows.entries()) {
      const score = row.reduce((sum, v, k) => sum + v * weights[k]!, weights[width]!)
      const error = 1 / (1 + Math.exp(-score)) - Number(examples[i]!.isFilled)
      for (let k = 0; k < width; k++) slope[k] = slope[k]! + (error * row[k]!) / examples.length
      slope[width] = slope[width]! + error / examples.length
    }
    for (const [k, s] of slope.entries()) weights[k] = weights[k]! - RATE * s
  }
  const raw = MEASURES.map((_, k) => weights[k]! / deviations[k]!)
  return [...raw, weights[width]! - raw.reduce((sum, w, k) => sum + w * means[k]!, 0)]
}

export async function bench({ seed }: BenchOptions): Promise<Figure[]> {
  // odd: the half that is for choosing
  const base = 20_000 * seed + 1
  const examples: Example[] = []
  for (const language of PROMPT_LANGUAGES)
    for (let n = 0; n < 4; n++) {
      examples.push(...examplesOf(realVoice(language, base + 5100 + 2 * n, 0.7)))
      examples.push(...examplesOf(realVoice(language, base + 5700 + 2 * n, 0.5, 15)))
      examples.push(...examplesOf(realVoice(language, base + 5300 + 2 * n, 0)))
      examples.push(...examplesOf(await syntheticVoice(language, null, base + 5400 + 2 * n, 0.6)))
    }
  for (const [n, voice] of FLITE.entries())
    for (const again of [0, 50]) examples.push(...examplesOf(await syntheticVoice('en', voice, base + 5500 + 2 * n + again, 0.6)))
  const weights = fitted(examples)
  const scores = examples.map(({ measures }) => measures.reduce((sum, v, k) => sum + v * weights[k]!, weights[MEASURES.length]!))
  const share = (isFilled: boolean, above: number) => {
    const own = scores.filter((_, i) => examples[i]!.isFilled === isFilled)
    return (100 * own.filter((score) => score > above).length) / Math.max(1, own.length)
  }
  const thresholds = [-2, -1, 0, 1, 2, 3, 4].flatMap((t): Figure[] => [
    { name: `score over ${t}: of filled pauses`, value: share(true, t), goal: '–', unit: '%', ok: null },
    { name: `score over ${t}: of other sounds`, value: share(false, t), goal: '–', unit: '%', ok: null },
  ])
  const figures = [...MEASURES, 'constant'].map((name, k) => ({
    name,
    value: weights[k]!,
    goal: '–',
    unit: `of ${examples.length} sounds, ${examples.filter((e) => e.isFilled).length} filled pauses`,
    ok: null,
  }))
  return [...figures, ...thresholds]
}
