/** Cleans a recording of any length in blocks, which may be worked side by side, and says where somebody speaks. */
import type { Stretch } from '#core/lecture.ts'
import { toSamples } from '#core/timing/clocks.ts'
import { zeroPhaseHighPass } from '../filters.ts'
import { SPEAKING_HOP } from './features.ts'
import { firstNoise } from './noise.ts'
import { frameMiddle, spectrumOf } from './spectrum.ts'
import { cleanStudied, studyForCleaning } from './suppress.ts'

const BLOCK = toSamples(30)
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

/** A part of a recording that can be cleaned without the rest. */
export interface Block {
  /** Samples it answers for. */
  start: number
  end: number
  /** The samples it is heard from: its own and a margin to both sides; the first of them in the recording. */
  from: number
  to: number
  /** Where in the block only the room is heard; null to find it. */
  roomTone: Stretch | null
  /** The noise of the room to begin with, by unit; absent to find it. */
  noise?: Float64Array
}

/** A block, cleaned. */
export interface CleanedBlock extends Pick<Block, 'start' | 'end' | 'from'> {
  /** From `from` on, margins included. */
  samples: Float32Array
  /** Of the hops that begin in the block. */
  speaking: Float32Array
}

const untouched = ({ strength, highPassHz }: CleaningOptions) => strength <= 0 && highPassHz === null

/** What happens to a whole recording before its blocks are cleaned. @returns the input itself where the bass is left alone */
export const withoutSubsonic = (samples: Float32Array, { highPassHz }: CleaningOptions): Float32Array =>
  highPassHz === null ? samples : zeroPhaseHighPass(samples, SUBSONIC_HZ)

/** @param samples of the whole recording, mono, 48 kHz, as `withoutSubsonic` gives them; at least one */
export function blocksOf(samples: Float32Array, { roomTone }: CleaningOptions): Block[] {
  const { length } = samples
  const blocks: Block[] = []
  for (let start = 0; start < length; start = blocks.at(-1)!.end) {
    // a short rest goes with the block before it
    const end = length - start < BLOCK * 1.5 ? length : start + BLOCK
    blocks.push({ start, end, from: Math.max(0, start - MARGIN), to: Math.min(length, end + MARGIN), roomTone })
  }
  if (!roomTone || blocks.length === 1) return blocks
  // most blocks do not hold the room tone that was pointed at
  const noise = firstNoise(spectrumOf(samples.subarray(roomTone.start, roomTone.end)), null)
  return blocks.map((block) => ({ ...block, roomTone: null, noise }))
}

/** @param samples of the whole recording */
export function cleanBlock(samples: Float32Array, block: Block, options: CleaningOptions): CleanedBlock {
  const { start, end, from, to } = block
  const piece = samples.subarray(from, to)
  const study = studyForCleaning(piece, block.roomTone, block.noise)
  const first = Math.ceil(start / SPEAKING_HOP)
  const speaking = new Float32Array(Math.ceil(end / SPEAKING_HOP) - first)
  for (let n = 0; n < speaking.length; n++) {
    const middle = (first + n + 0.5) * SPEAKING_HOP - from
    const step = Math.round((middle - frameMiddle(0)) / SPEAKING_HOP)
    speaking[n] = study.mask.speaking[Math.max(0, Math.min(study.mask.steps - 1, step))]!
  }
  const cleaned = untouched(options) ? piece : cleanStudied(study, options.strength, options.highPassHz, piece.length)
  return { start, end, from, samples: cleaned, speaking }
}

/** @param blocks all of a recording, in order; @param length of the recording in samples */
export function joinBlocks(blocks: Iterable<CleanedBlock>, length: number, options: CleaningOptions): Cleaned {
  const samples = new Float32Array(length)
  const speaking = new Float32Array(Math.ceil(samples.length / SPEAKING_HOP))
  const seam = untouched(options) ? 0 : SEAM
  for (const block of blocks) {
    const { start, end, from } = block
    speaking.set(block.speaking, Math.ceil(start / SPEAKING_HOP))
    for (let i = 0; i < seam && start > 0; i++) {
      const later = (i + 0.5) / seam
      samples[start + i] = samples[start + i]! * (1 - later) + block.samples[start - from + i]! * later
    }
    const plain = start > 0 ? start + seam : 0
    samples.set(block.samples.subarray(plain - from, end + seam - from), plain)
  }
  return { samples, speaking }
}

/**
 * @param recorded mono, 48 kHz, any length
 * @returns a signal of the same length, not shifted; with strength 0 and no high-pass, equal to the input
 */
export function clean(recorded: Float32Array, options: CleaningOptions): Cleaned {
  const samples = withoutSubsonic(recorded, options)
  function* cleaned() {
    for (const block of blocksOf(samples, options)) yield cleanBlock(samples, block, options)
  }
  return joinBlocks(cleaned(), samples.length, options)
}
