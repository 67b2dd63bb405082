/** Clicks of keys and mice between words: found by how sudden and short they are, and turned down to what is around them. */

import { highPass } from '#core/audio/signal/filters.ts'
import { chunksOf, type SampleStore } from '#core/audio/signal/sample-source.ts'
import type { SampleRange } from '#core/model/sample-range.ts'
import { SAMPLE_RATE, toSamples } from '#core/timing/clocks.ts'

const PIECE = SAMPLE_RATE / 1000
/** A click stands this far above the middle level of the 120 ms around it … */
const STANDS_OUT = 8
const AROUND = 60
/** … and is over within this. */
const LONGEST = 30 // pieces of 1 ms
const EDGE = toSamples(0.002)

/** Level of each piece above 1.5 kHz. It is worked in one go: a whole take of filtered sound is not needed. */
function brightLevels(samples: Float32Array): Float32Array {
  const { b0, b1, b2, a1, a2 } = highPass(1500, SAMPLE_RATE)
  const levels = new Float32Array(Math.floor(samples.length / PIECE))
  let [z1, z2] = [0, 0]
  for (let p = 0, i = 0; p < levels.length; p++) {
    let sum = 0
    for (const end = i + PIECE; i < end; i++) {
      const x = samples[i]!
      const y = b0 * x + z1
      z1 = b1 * x - a1 * y + z2
      z2 = b2 * x - a2 * y
      sum += y * y
    }
    levels[p] = Math.sqrt(sum / PIECE)
  }
  return levels
}

/**
 * @param samples mono, 48 kHz
 * @param speech where the voice is; clicks under words are left alone
 * @returns stretches that hold a click, in samples, in order
 */
export function findClicks(
  samples: Float32Array,
  speech: readonly SampleRange[],
): { start: number; end: number; level: number }[] {
  const levels = brightLevels(samples)
  const pieces = levels.length
  const found: { start: number; end: number; level: number }[] = []
  for (let p = 0; p < pieces; p++) {
    if (levels[p]! < 1e-4) continue
    if (speech.some((s) => p * PIECE >= s.start && p * PIECE < s.end)) continue
    const around = levels.subarray(Math.max(0, p - AROUND), p + AROUND)
    let below = 0
    for (let i = 0; i < around.length; i++) if (around[i]! * STANDS_OUT <= levels[p]!) below++
    // it stands out over the middle one, which costs more to find
    if (below <= around.length >> 1) continue
    const usual = around.slice().sort()[around.length >> 1]!
    let end = p
    while (end < pieces && end - p < LONGEST && levels[end]! > usual * 2) end++
    if (end - p >= LONGEST) continue
    found.push({ start: p * PIECE - EDGE, end: end * PIECE + EDGE, level: usual / levels[p]! })
    p = end
  }
  return found.map((click) => ({ ...click, start: Math.max(0, click.start), end: Math.min(samples.length, click.end) }))
}

/** Turns each click down to the level around it, in place. */
export function declick(sound: SampleStore, speech: readonly SampleRange[]): void {
  for (const { start, end, from, to } of chunksOf(sound.length)) {
    const near = speech.filter((s) => s.end > from && s.start < to).map((s) => ({ start: s.start - from, end: s.end - from }))
    const found = findClicks(sound.subarray(from, to), near).filter(
      (click) => click.start >= start - from && click.start < end - from,
    )
    for (const { start: first, end: last, level } of found) {
      const quieter = sound.subarray(from + first, from + last).map((value, i, { length }) => {
        const part = Math.min(1, (i + 0.5) / EDGE, (length - i - 0.5) / EDGE)
        return value * (1 - part * (1 - level))
      })
      sound.set(quieter, from + first)
    }
  }
}
