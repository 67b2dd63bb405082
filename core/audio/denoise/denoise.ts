/** Cleans a recording of any length in blocks, which may be worked side by side, and says where somebody speaks. */

import { zeroPhaseHighPass } from '#core/audio/signal/filters.ts'
import type { SampleStore } from '#core/audio/signal/sample-source.ts'
import { SPEAKING_HOP } from '#core/audio/speech/voice-activity.ts'
import type { SampleRange } from '#core/model/sample-range.ts'
import { frameMiddle, spectrumOf } from './bands.ts'
import { BLOCKS } from './floors.ts'
import { firstNoise } from './noise-estimate.ts'
import { analyseForDenoise, applyDenoise } from './suppress.ts'

export interface Cleaned<S = Float32Array> {
  samples: S
  /** Probability that a voice is heard, one value for every `SPEAKING_HOP` samples begun, its middle. */
  voiceProbability: Float32Array
  /** The same for words alone: neither breaths nor what the room answers. */
  speechProbability: Float32Array
}

export interface CleaningOptions {
  /** 0 to 1; 0 leaves the sound as it is, but for the rumble. */
  strength: number
  /** Corner of the high-pass; null leaves the bass alone. */
  highPassHz: number | null
  /** The noise of the room, as `roomNoise` hears it where it was pointed at; null to find it. */
  noise: Float64Array | null
}

/** A part of a recording that can be cleaned without the rest. */
export interface Block {
  /** Samples it answers for. */
  start: number
  end: number
  /** The samples it is heard from: its own and a margin to both sides. */
  from: number
  to: number
}

/** A block, cleaned. */
export interface CleanedBlock extends Pick<Block, 'start' | 'end' | 'from'> {
  /** From `from` on, margins included. */
  samples: Float32Array
  /** Of the hops that begin in the block. */
  voiceProbability: Float32Array
  speechProbability: Float32Array
}

const isBypass = ({ strength, highPassHz }: Pick<CleaningOptions, 'strength' | 'highPassHz'>) =>
  strength <= 0 && highPassHz === null

const withoutSubsonic = (samples: Float32Array, highPassHz: number | null): Float32Array =>
  highPassHz === null ? samples : zeroPhaseHighPass(samples, BLOCKS.subsonicHz)

/** What stands after the last whole block, and is less than half as long again: samples. */
function restAfter(length: number): number {
  const blocks = Math.max(0, Math.floor(length / BLOCKS.length - 0.5))
  return blocks * BLOCKS.length
}

/** @param length of the recording in samples */
export function blocksOf(length: number): Block[] {
  const rest = restAfter(length)
  const starts = Array.from({ length: rest / BLOCKS.length }, (_, i) => i * BLOCKS.length)
  if (length > 0) starts.push(rest)
  // somebody waits for what is left, and there is more than one to do it
  if (rest > 0 && length - rest >= BLOCKS.length) starts.push(rest + BLOCKS.grid * Math.round((length - rest) / 2 / BLOCKS.grid))
  return starts.map((start, i) => {
    const end = starts[i + 1] ?? length
    return { start, end, from: Math.max(0, start - BLOCKS.margin), to: Math.min(length, end + BLOCKS.margin) }
  })
}

/** @param length of what there is so far, samples @returns the first blocks of it, which stay as they are however much is added */
export const settledBlocks = (length: number): Block[] => blocksOf(length).slice(0, restAfter(length) / BLOCKS.length)

/**
 * @param samples of the whole recording, mono, 48 kHz
 * @param room where in it only the room is heard
 */
export function roomNoise(samples: Float32Array, room: SampleRange, highPassHz: number | null): Float64Array {
  const from = Math.max(0, room.start - BLOCKS.margin)
  const around = withoutSubsonic(samples.subarray(from, room.end + BLOCKS.margin), highPassHz)
  return firstNoise(spectrumOf(around), { start: room.start - from, end: room.end - from })
}

/** @param recorded the samples the block is heard from, `from` up to `to` */
export function cleanBlock(recorded: Float32Array, { start, end, from }: Block, options: CleaningOptions): CleanedBlock {
  const piece = withoutSubsonic(recorded, options.highPassHz)
  const study = analyseForDenoise(piece, options.noise)
  const first = Math.ceil(start / SPEAKING_HOP)
  const { mask } = study
  const hops = new Float32Array(Math.ceil(end / SPEAKING_HOP) - first)
  const ofHops = (steps: Float32Array) =>
    hops.map((_, n) => {
      const middle = (first + n + 0.5) * SPEAKING_HOP - from
      return steps[Math.max(0, Math.min(mask.steps - 1, Math.round((middle - frameMiddle(0)) / SPEAKING_HOP)))]!
    })
  const cleaned = isBypass(options) ? piece : applyDenoise(study, options.strength, options.highPassHz, piece.length)
  return {
    start,
    end,
    from,
    samples: cleaned,
    voiceProbability: ofHops(mask.voiceProbability),
    speechProbability: ofHops(mask.speechProbability),
  }
}

export interface BlockJoiner<S> {
  /** @param block the next one, in order */
  add(block: CleanedBlock): void
  /** What came of the blocks added so far. */
  joined: Cleaned<S>
}

/**
 * Joins blocks as they come.
 *
 * @param length of the recording in samples
 * @param samples what they are joined into, as long as the recording
 * @param every the blocks' samples are every so-many-th one of the recording; what blocks begin at is a multiple of 3
 */
export function blockJoiner<S extends SampleStore>(length: number, samples: S, every: 1 | 3 = 1): BlockJoiner<S> {
  const voiceProbability = new Float32Array(Math.ceil(length / SPEAKING_HOP))
  const speechProbability = new Float32Array(voiceProbability.length)
  return {
    joined: { samples, voiceProbability, speechProbability },
    add({ start, end, from, samples: cleaned, ...heard }) {
      voiceProbability.set(heard.voiceProbability, Math.ceil(start / SPEAKING_HOP))
      speechProbability.set(heard.speechProbability, Math.ceil(start / SPEAKING_HOP))
      const at = start / every
      const reach = Math.ceil((end + BLOCKS.seam - start) / every)
      const piece = cleaned.subarray((start - from) / every).subarray(0, Math.min(reach, samples.length - at))
      const seam = start > 0 ? BLOCKS.seam / every : 0
      const earlier = samples.subarray(at, at + seam)
      // where both are the same, so is what comes out
      const joint = earlier.map((value, i) => value + ((i + 0.5) / seam) * (piece[i]! - value))
      samples.set(joint, at)
      samples.set(piece.subarray(seam), at + seam)
    },
  }
}

/** The same of all blocks at once. */
export function joinBlocks<S extends SampleStore>(
  blocks: Iterable<CleanedBlock>,
  length: number,
  samples: S,
  every: 1 | 3 = 1,
): Cleaned<S> {
  const joiner = blockJoiner(length, samples, every)
  for (const block of blocks) joiner.add(block)
  return joiner.joined
}

/**
 * @param recorded mono, 48 kHz, any length
 * @returns a signal of the same length, not shifted; with strength 0 and no high-pass, equal to the input
 */
export function clean(recorded: Float32Array, options: CleaningOptions): Cleaned {
  // one after the other: each is let go when it is joined
  function* cleaned() {
    for (const block of blocksOf(recorded.length)) yield cleanBlock(recorded.subarray(block.from, block.to), block, options)
  }
  return joinBlocks(cleaned(), recorded.length, new Float32Array(recorded.length))
}
