/** Second-order filters. */

export interface Biquad {
  b0: number
  b1: number
  b2: number
  a1: number
  a2: number
}

/**
 * Butterworth high-pass of the second order.
 *
 * @param hz corner, −3 dB
 * @see W3C Audio EQ Cookbook (Bristow-Johnson), HPF with Q = 1/√2
 */
export function highPass(hz: number, sampleRate: number): Biquad {
  const w = (2 * Math.PI * hz) / sampleRate
  const alpha = Math.sin(w) / Math.SQRT2
  const a0 = 1 + alpha
  const c = Math.cos(w)
  return { b0: (1 + c) / 2 / a0, b1: -(1 + c) / a0, b2: (1 + c) / 2 / a0, a1: (-2 * c) / a0, a2: (1 - alpha) / a0 }
}

/**
 * Butterworth low-pass of the sixth order, in three stages.
 *
 * @param hz corner, −3 dB
 * @see W3C Audio EQ Cookbook (Bristow-Johnson), LPF
 */
export function lowPass(hz: number, sampleRate: number): Biquad[] {
  const w = (2 * Math.PI * hz) / sampleRate
  const c = Math.cos(w)
  return [1, 3, 5].map((n) => {
    const alpha = Math.sin(w) * Math.cos((n * Math.PI) / 12)
    const a0 = 1 + alpha
    return { b0: (1 - c) / 2 / a0, b1: (1 - c) / a0, b2: (1 - c) / 2 / a0, a1: (-2 * c) / a0, a2: (1 - alpha) / a0 }
  })
}

/** What a filter remembers from one piece of a signal to the next. */
export type BiquadState = [number, number]

/**
 * @param state left as it is after the last sample, for the piece that follows; a signal's first piece starts from rest
 * @returns the filtered signal
 */
export function applyBiquad(
  input: Float32Array,
  { b0, b1, b2, a1, a2 }: Biquad,
  state: BiquadState = [0, 0],
): Float32Array<ArrayBuffer> {
  const out = new Float32Array(input.length)
  let [z1, z2] = state
  for (let i = 0; i < input.length; i++) {
    const x = input[i]!
    const y = b0 * x + z1
    z1 = b1 * x - a1 * y + z2
    z2 = b2 * x - a2 * y
    out[i] = y
  }
  state[0] = z1
  state[1] = z2
  return out
}

/**
 * High-pass of the fourth order without a shift of phase: filtered forward, then backward.
 *
 * @param hz corner of each of the two passes
 */
export function zeroPhaseHighPass(samples: Float32Array, hz: number): Float32Array<ArrayBuffer> {
  const filter = highPass(hz, 48_000)
  return applyBiquad(applyBiquad(samples, filter).reverse(), filter).reverse()
}
