/** What is heard on one slide: its clip, and the beds under it. */

import { limit } from '#core/audio/loudness/limiter.ts'
import { fromInt16, toInt16 } from '#core/audio/signal/pcm.ts'
import { addBed, type BedPortion } from './music-bed.ts'

/** A bed's true sound before a slide's first sample lets the sound encoder settle. */
export const PRE_ROLL_SAMPLES = 2048
/** Voices are kept under it already; a bed on top may reach over it. */
const CEILING_DBTP = -1

export interface SlideMix {
  lengthSamples: number
  clip: { pcm: Int16Array; atSamples: number } | null
  /** Portions, each with left and right in turn of the file's samples it plays from, the first of them its `fileSample`. */
  beds: { pcm: Int16Array; portion: BedPortion }[]
}

/**
 * @returns left and right in turn, 16 bit, from `PRE_ROLL_SAMPLES` before the slide's first sample to its last
 */
export function mixSlide({ lengthSamples, clip, beds }: SlideMix): Int16Array<ArrayBuffer> {
  const length = PRE_ROLL_SAMPLES + lengthSamples
  const stereo = new Int16Array(length * 2)
  const voice = clip?.pcm.subarray(0, lengthSamples - clip.atSamples)
  const first = PRE_ROLL_SAMPLES + (clip?.atSamples ?? 0)
  if (beds.length === 0) {
    for (let i = 0; voice && i < voice.length; i++) {
      stereo[(first + i) * 2] = voice[i]!
      stereo[(first + i) * 2 + 1] = voice[i]!
    }
    return stereo
  }
  for (const side of [0, 1]) {
    const mix = new Float32Array(length)
    if (voice) mix.set(fromInt16(voice), first)
    for (const { pcm, portion } of beds) {
      const file = Float32Array.from({ length: pcm.length / 2 }, (_, i) => pcm[2 * i + side]! / 32768)
      addBed(mix, file, portion)
    }
    const pcm = toInt16(limit(mix, CEILING_DBTP))
    for (let i = 0; i < length; i++) stereo[2 * i + side] = pcm[i]!
  }
  return stereo
}
