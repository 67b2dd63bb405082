/** Levels between samples, as the broadcast standards estimate them. */

import { toDb } from '#core/audio/signal/pcm.ts'
import { chunksOf, type Samples } from '#core/audio/signal/sample-source.ts'
import { kernels } from '#core/audio/wasm/kernels.ts'
import { memoryPart } from '#core/audio/wasm/memory-map.ts'
import type { SampleRange } from '#core/model/sample-range.ts'

/** Samples looked at together; the interpolator sees a few more to each side. */
const PIECE = 512
const [SEEN_BEFORE, SEEN_AFTER] = [5, 6]
/** An interpolated value is never larger than the largest sample near it times this: the sum of the interpolator's taps. */
const MOST_OVERSHOOT = 2.03

/** Calls back with the peaks in and around each piece of a stretch in which one over the limit is possible at all. */
function eachPiece(
  samples: Float32Array,
  { start: first, end }: SampleRange,
  limit: () => number,
  use: (peaks: Float32Array, start: number) => void,
) {
  const { between } = kernels()
  const { floats, take } = memoryPart('work')
  const from = take(PIECE + 16)
  const to = take(PIECE)
  for (let start = first; start < end; start += PIECE) {
    const count = Math.min(PIECE, end - start)
    const seen = samples.subarray(Math.max(0, start - SEEN_BEFORE), start + count + SEEN_AFTER)
    let highest = 0
    for (let i = 0; i < seen.length; i++) highest = Math.max(highest, Math.abs(seen[i]!))
    if (highest * MOST_OVERSHOOT <= limit()) continue
    floats.fill(0, from, to)
    floats.set(seen, from + SEEN_BEFORE - Math.min(SEEN_BEFORE, start))
    between((from + SEEN_BEFORE) * 4, Math.ceil(count / 4) * 4, to * 4)
    use(floats.subarray(to, to + count), start)
  }
}

/**
 * The largest level between samples, where it may be over a limit.
 *
 * @param limit amplitude, full scale 1
 * @returns for each sample the largest magnitude of the four interpolated values next to it and of the sample itself; 0 where
 *   that is certainly not over the limit; null where it is so everywhere
 * @see ITU-R BS.1770-5, Annex 2 (4 × oversampling)
 */
export function peaksOver(samples: Float32Array, limit: number): Float32Array<ArrayBuffer> | null {
  let out: Float32Array<ArrayBuffer> | null = null
  eachPiece(
    samples,
    { start: 0, end: samples.length },
    () => limit,
    (peaks, start) => {
      out ??= new Float32Array(samples.length)
      out.set(peaks, start)
    },
  )
  return out
}

/** The largest level in a stretch, between its samples too: amplitude. @see ITU-R BS.1770-5, Annex 2 */
export function highestPeak(samples: Float32Array, stretch: SampleRange): number {
  let highest = 0
  // pieces that cannot reach what the samples themselves do are passed over
  for (let i = stretch.start; i < stretch.end; i++) highest = Math.max(highest, Math.abs(samples[i]!))
  eachPiece(
    samples,
    stretch,
    () => highest,
    (peaks) => {
      for (let i = 0; i < peaks.length; i++) if (peaks[i]! > highest) highest = peaks[i]!
    },
  )
  return highest
}

/** @returns true peak in dBTP; −Infinity for digital silence. @see ITU-R BS.1770-5, Annex 2 */
export const truePeak = (sound: Samples) =>
  toDb(
    chunksOf(sound.length).reduce(
      (most, { start, end, from, to }) =>
        Math.max(most, highestPeak(sound.subarray(from, to), { start: start - from, end: end - from })),
      0,
    ),
  )
