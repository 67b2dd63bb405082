/** Loudness as the broadcast standards measure it. */

import type { Biquad } from '#core/audio/signal/filters.ts'
import { chunksOf, type Samples } from '#core/audio/signal/sample-source.ts'
import { SAMPLE_RATE } from '#core/timing/clocks.ts'

// ITU-R BS.1770-5, Annex 1, tables 1 and 2: K-weighting at 48 kHz
const SHELF: Biquad = {
  b0: 1.53512485958697,
  b1: -2.69169618940638,
  b2: 1.19839281085285,
  a1: -1.69065929318241,
  a2: 0.73248077421585,
}
const RLB: Biquad = { b0: 1, b1: -2, b2: 1, a1: -1.99004745483398, a2: 0.99007225036621 }

const ABSOLUTE_GATE_LUFS = -70
const RELATIVE_GATE_LU = -10
/** Samples of a step: blocks of 400 ms overlap by 75 %. */
export const STEP = SAMPLE_RATE / 10
const STEPS_A_BLOCK = 4

const powerToLufs = (power: number) => -0.691 + 10 * Math.log10(power)

/** Mean square of each step after both stages of the K-weighting. */
export function stepPowers(sound: Samples): Float64Array {
  const powers = new Float64Array(Math.floor(sound.length / STEP))
  for (const { start, end, from } of chunksOf(sound.length))
    powers.set(stepPowersOfPiece(sound.subarray(from, end)).subarray((start - from) / STEP), start / STEP)
  return powers
}

/** The same of a piece in memory (direct form II transposed), in one go. */
function stepPowersOfPiece(samples: Float32Array): Float64Array {
  const powers = new Float64Array(Math.floor(samples.length / STEP))
  const { b0: c0, b1: c1, b2: c2, a1: d1, a2: d2 } = SHELF
  const { b0: e0, b1: e1, b2: e2, a1: f1, a2: f2 } = RLB
  let [s1, s2, r1, r2] = [0, 0, 0, 0]
  for (let step = 0, i = 0; step < powers.length; step++) {
    let sum = 0
    for (const end = i + STEP; i < end; i++) {
      const x = samples[i]!
      const y = c0 * x + s1
      s1 = c1 * x - d1 * y + s2
      s2 = c2 * x - d2 * y
      const z = e0 * y + r1
      r1 = e1 * y - f1 * z + r2
      r2 = e2 * y - f2 * z
      sum += z * z
    }
    powers[step] = sum / STEP
  }
  return powers
}

/**
 * Mean square of each 400 ms block after K-weighting, summed over the channels: what loudness is worked out from.
 *
 * @param channels one Float32Array per channel, equal lengths, 48 kHz, full scale ±1
 * @returns one power per 100 ms, empty when the signal is shorter than one block
 * @see ITU-R BS.1770-5, Annex 1: blocks overlap by 75 %
 */
export function blockPowers(channels: readonly Float32Array[]): number[] {
  return blocksOfSteps(channels.map(stepPowers))
}

/** @param channels powers of the steps of each */
export function blocksOfSteps(channels: readonly ArrayLike<number>[]): number[] {
  const steps = channels[0]?.length ?? 0
  const blocks: number[] = []
  for (let s = 0; s + STEPS_A_BLOCK <= steps; s++) {
    let power = 0
    for (const powers of channels) for (let k = 0; k < STEPS_A_BLOCK; k++) power += powers[s + k]!
    blocks.push(power / STEPS_A_BLOCK)
  }
  return blocks
}

/**
 * Integrated loudness from block powers, which may come from many pieces of one programme: only blocks across their joins are missed.
 *
 * @returns LUFS; −Infinity when every block is below the absolute gate (−70 LUFS), or there is none
 * @see ITU-R BS.1770-5, Annex 1: gates at −70 LUFS and −10 LU
 */
export function loudnessOfBlocks(powers: readonly number[]): number {
  const mean = (values: readonly number[]) => values.reduce((a, b) => a + b, 0) / values.length
  const audible = powers.filter((power) => powerToLufs(power) > ABSOLUTE_GATE_LUFS)
  if (audible.length === 0) return Number.NEGATIVE_INFINITY
  const gate = powerToLufs(mean(audible)) + RELATIVE_GATE_LU
  return powerToLufs(mean(audible.filter((power) => powerToLufs(power) > gate)))
}

/**
 * Integrated loudness of a mono or stereo signal.
 *
 * @param channels one Float32Array per channel, equal lengths, 48 kHz, full scale ±1
 * @returns LUFS; −Infinity when every 400 ms block is below the absolute gate (−70 LUFS) or the signal is shorter than one block
 * @see ITU-R BS.1770-5, Annex 1: K-weighting, 75 % overlapping blocks, gates at −70 LUFS and −10 LU
 */
export function integratedLoudness(channels: readonly Float32Array[]): number {
  return loudnessOfBlocks(blockPowers(channels))
}

/**
 * Loudness of a mono recording as it will be heard: the same sound from two loudspeakers, as players reproduce it and
 * as editions carry it. It reads 3.01 dB above the one channel measured alone. Every loudness in the product is this one.
 */
export function heardLoudness(mono: Samples): number {
  return heardLoudnessOfSteps(stepPowers(mono))
}

/** The same from the powers of its steps, as `stepPowers` gives them. */
export const heardLoudnessOfSteps = (powers: ArrayLike<number>) => loudnessOfBlocks(blocksOfSteps([powers])) + 10 * Math.log10(2)

/**
 * Short-term loudness while sound arrives: that of the last three seconds, ungated. Nothing is allocated once it runs.
 *
 * @see EBU Tech 3341, "short-term" time scale; ITU-R BS.1770-5, Annex 1
 */
export class RunningLoudness {
  readonly #powers = new Float64Array(30)
  #filled = 0
  #at = 0
  #sum = 0
  #count = 0
  // direct form II transposed, two stages
  #s1 = 0
  #s2 = 0
  #r1 = 0
  #r2 = 0

  /** @param x next sample, mono, 48 kHz, full scale ±1 */
  add(x: number) {
    const y = SHELF.b0 * x + this.#s1
    this.#s1 = SHELF.b1 * x - SHELF.a1 * y + this.#s2
    this.#s2 = SHELF.b2 * x - SHELF.a2 * y
    const z = RLB.b0 * y + this.#r1
    this.#r1 = RLB.b1 * y - RLB.a1 * z + this.#r2
    this.#r2 = RLB.b2 * y - RLB.a2 * z
    this.#sum += z * z
    if (++this.#count < STEP) return
    this.#powers[this.#at] = this.#sum / STEP
    this.#at = (this.#at + 1) % this.#powers.length
    this.#filled = Math.min(this.#powers.length, this.#filled + 1)
    this.#sum = 0
    this.#count = 0
  }

  /** @returns LUFS as heard on two loudspeakers; −Infinity before anything was heard */
  lufs(): number {
    if (this.#filled === 0) return Number.NEGATIVE_INFINITY
    let power = 0
    for (let i = 0; i < this.#filled; i++) power += this.#powers[i]!
    return powerToLufs(power / this.#filled) + 10 * Math.log10(2)
  }
}
