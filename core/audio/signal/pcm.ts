/** Samples as floats in ±1 and as the 16-bit integers they are stored in. */

/** @returns level in dB of an amplitude ratio; −Infinity for 0 */
export const toDb = (ratio: number) => 20 * Math.log10(ratio)
/** @returns amplitude ratio of a level in dB */
export const fromDb = (db: number) => 10 ** (db / 20)

/**
 * Rounds to 16-bit integers.
 *
 * @param samples full scale ±1; beyond it the value is held at the edge, not a number becomes silence
 */
export function toInt16(samples: Float32Array): Int16Array {
  const out = new Int16Array(samples.length)
  for (let i = 0; i < samples.length; i++) {
    const value = samples[i]! * 32768
    out[i] = value >= 32767 ? 32767 : value <= -32768 ? -32768 : Math.floor(value + 0.5)
  }
  return out
}

/** @returns floats in ±1 */
export function fromInt16(samples: Int16Array): Float32Array {
  const out = new Float32Array(samples.length)
  for (let i = 0; i < samples.length; i++) out[i] = samples[i]! / 32768
  return out
}

/** @returns root mean square of a stretch, full scale 1; 0 for an empty stretch */
export function rms(samples: Float32Array, start = 0, end = samples.length): number {
  let sum = 0
  for (let i = start; i < end; i++) sum += samples[i]! * samples[i]!
  return end > start ? Math.sqrt(sum / (end - start)) : 0
}
