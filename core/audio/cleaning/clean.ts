/** Cleans a recording of any length in blocks, so that memory stays bounded, and says where somebody speaks. */
import type { Stretch } from '#core/lecture.ts'
import { toSamples } from '#core/timing/clocks.ts'
import { zeroPhaseHighPass } from '../filters.ts'
import { SPEAKING_HOP } from './features.ts'
import { firstNoise } from './noise.ts'
import { frameMiddle, spectrumOf } from './spectrum.ts'
import { cleanStudied, studyForCleaning } from './suppress.ts'

const BLOCK = toSamples(40)
const MARGIN = toSamples(1)
/** What lies below any voice is too slow for the short-time spectrum to tell it from the voice: it goes first. */
const SUBSONIC_HZ = 22
/** Blocks meet in a short cross-fade. */
const SEAM = toSamples(0.02)

export interface Cleaned {
  samples: Float32Array
  /** Probability that somebody speaks, one value for every `SPEAKING_HOP` samples begun, its middle. */
  speaking: Float32Array
}

export interface CleaningOptions {
  /** 0 to 1; 0 leaves the sound as it is, but for the rumble. */
  strength: number
  /** Corner of the high-pass; null leaves the bass alone. */
  highPassHz: number | null
  /** A stretch in which only the room is heard; null to find it. */
  roomTone: Stretch | null
}

/**
 * @param recorded mono, 48 kHz, any length
 * @returns a signal of the same length, not shifted; with strength 0 and no high-pass, the input itself
 */
export function clean(recorded: Float32Array, { strength, highPassHz, roomTone }: CleaningOptions): Cleaned {
  const untouched = strength <= 0 && highPassHz === null
  const samples = highPassHz === null ? recorded : zeroPhaseHighPass(recorded, SUBSONIC_HZ)
  const out = untouched ? samples : new Float32Array(samples.length)
  const speaking = new Float32Array(Math.ceil(samples.length / SPEAKING_HOP))
  const pointed =
    roomTone && samples.length > BLOCK ? firstNoise(spectrumOf(samples.subarray(roomTone.start, roomTone.end)), null) : undefined
  for (let start = 0; start < samples.length; start += BLOCK) {
    // a short rest goes with the block before it
    const end = samples.length - start < BLOCK * 1.5 ? samples.length : start + BLOCK
    const from = Math.max(0, start - MARGIN)
    const piece = samples.subarray(from, Math.min(samples.length, end + MARGIN))
    const study = studyForCleaning(piece, pointed ? null : roomTone, pointed)
    for (let n = Math.ceil(start / SPEAKING_HOP); n * SPEAKING_HOP < end; n++) {
      const middle = (n + 0.5) * SPEAKING_HOP - from
      const step = Math.round((middle - frameMiddle(0)) / SPEAKING_HOP)
      speaking[n] = study.mask.speaking[Math.max(0, Math.min(study.mask.steps - 1, step))]!
    }
    if (!untouched) {
      const cleaned = cleanStudied(study, strength, highPassHz, piece.length)
      for (let i = 0; i < SEAM && start > 0; i++) {
        const later = (i + 0.5) / SEAM
        out[start + i] = out[start + i]! * (1 - later) + cleaned[start - from + i]! * later
      }
      const plain = start > 0 ? start + SEAM : 0
      out.set(cleaned.subarray(plain - from, Math.min(end + SEAM, from + piece.length) - from), plain)
    }
    if (end === samples.length) break
  }
  return { samples: out, speaking }
}
