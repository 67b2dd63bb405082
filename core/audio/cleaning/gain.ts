/** Gain of the log-spectral amplitude estimator, looked up, and the logarithm it needs. */
import { expint1 } from '../exponential-integral.ts'

const TABLE_FROM = -4
const TABLE_STEP = 0.02
// exp(E1(v) / 2) by log10(v), from 10⁻⁴ to 100
const HALF_E1 = Float64Array.from({ length: 301 }, (_, i) => Math.exp(expint1(10 ** (TABLE_FROM + i * TABLE_STEP)) / 2))

const asFloat = new Float32Array(1)
const asBits = new Int32Array(asFloat.buffer)

/** Base-10 logarithm to within 0.002, several times faster than Math.log10. @param x above 0, in the range of normal 32-bit floats */
export function roughLog10(x: number): number {
  asFloat[0] = x
  const bits = asBits[0]!
  const m = (bits & 0x7fffff) / 0x800000
  return ((bits >> 23) - 127 + m + 0.3436 * m * (1 - m)) * 0.30103
}

/**
 * @param xi a-priori signal-to-noise ratio (power)
 * @param gamma a-posteriori signal-to-noise ratio (power)
 * @returns amplitude gain, 0 and above
 * @see Ephraim & Malah 1985, IEEE Trans. ASSP 33(2), equation 20
 */
export function logMmseGain(xi: number, gamma: number): number {
  const wiener = xi / (1 + xi)
  const v = wiener * gamma
  if (v < 1e-4) return wiener * HALF_E1[0]!
  const at = ((roughLog10(v) - TABLE_FROM) / TABLE_STEP + 0.5) | 0
  return at > 300 ? wiener : wiener * HALF_E1[at]!
}
