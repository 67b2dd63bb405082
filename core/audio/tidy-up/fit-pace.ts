/** Makes a clip fit a fixed pace: first by shorter pauses, then by a little more tempo. Speech is never cut. */

import type { SampleRange } from '#core/model/sample-range.ts'
import type { TidyUp } from '#core/model/tidy-up.ts'
import { clipSamples } from '#core/timing/time-map.ts'
import { pauseCuts } from './trim-pauses.ts'

/** Pauses allowed, longest first; below 0.4 s speech sounds breathless (common practice, no published source). */
const PAUSES_S = [1.5, 1.2, 1, 0.8, 0.6, 0.5, 0.4]
/** More is heard as hurry (common practice, no published source). */
const MOST_TEMPO = 1.05

export interface Fit {
  tidyUp: TidyUp
  /** By how much it is still too long, samples; 0 when it fits. */
  overSamples: number
  /** What was done, as it is said to the person. */
  done: string
}

/**
 * @param tidyUp the recipe as it is
 * @param speech where the voice is, samples of the take
 * @param room samples there are for the clip
 * @returns the gentlest recipe that fits; when none does, the one that comes nearest
 */
export function fitClip(tidyUp: TidyUp, speech: readonly SampleRange[], room: number): Fit {
  let fitted = tidyUp
  const shortenTo = [tidyUp.longestPauseSeconds ?? Number.POSITIVE_INFINITY, ...PAUSES_S]
  let pause: number | null = null
  for (const seconds of shortenTo) {
    if (clipSamples(fitted) <= room) break
    if (!Number.isFinite(seconds) || seconds >= (tidyUp.longestPauseSeconds ?? Number.POSITIVE_INFINITY)) continue
    pause = seconds
    fitted = { ...tidyUp, longestPauseSeconds: seconds, pauseCuts: pauseCuts(speech, seconds) }
  }
  const said = [pause === null ? '' : `pauses to ${pause} s at most`]
  if (clipSamples(fitted) > room) {
    const needed = clipSamples({ ...fitted, tempo: 1 }) / room
    // rounded up to a tenth of a per cent, so that rounding never leaves it a sample too long
    const tempo = Math.min(MOST_TEMPO, Math.ceil(needed * 1000) / 1000)
    fitted = { ...fitted, tempo }
    said.push(`${((tempo - 1) * 100).toFixed(1)} % faster`)
  }
  return { tidyUp: fitted, overSamples: Math.max(0, clipSamples(fitted) - room), done: said.filter(Boolean).join(', ') }
}
