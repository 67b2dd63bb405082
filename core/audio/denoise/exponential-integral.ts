/** The exponential integral E1, which the log-MMSE gain needs. */

const EULER = 0.5772156649015329

/**
 * @param x above 0
 * @returns E1(x) = ∫ₓ^∞ e⁻ᵗ / t dt
 * @see Abramowitz & Stegun, Handbook of Mathematical Functions, 5.1.11 (series) and 5.1.22 (continued fraction)
 */
export function expint1(x: number): number {
  if (x <= 1) {
    let term = 1
    let sum = 0
    for (let n = 1; n < 30; n++) {
      term *= -x / n
      sum -= term / n
    }
    return -EULER - Math.log(x) + sum
  }
  let fraction = 0
  for (let n = 40; n >= 1; n--) fraction = n / (1 + n / (x + fraction))
  return Math.exp(-x) / (x + fraction)
}
