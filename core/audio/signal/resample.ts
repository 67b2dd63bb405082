/** From the rate of a device to another one, as the samples come. */

/** Zero crossings of the sinc on each side, at the lower of the two rates. */
const CROSSINGS = 64
/** Kaiser's β: what is folded or mirrored lies 80 dB below. */
const BETA = 8
/** Of half the lower rate: where the pass-band is 6 dB down. */
const CUT = 0.96

/** Modified Bessel function of the first kind and order zero, by its power series. */
function bessel0(x: number): number {
  let [term, sum] = [1, 1]
  for (let k = 1; term > sum * 1e-12; k++) {
    term *= (x / (2 * k)) ** 2
    sum += term
  }
  return sum
}

function gcd(a: number, b: number): number {
  return b === 0 ? a : gcd(b, a % b)
}

/**
 * A band-limited change of rate: a sinc under a Kaiser window, one set of weights for each place an output sample can take between
 * input samples. What comes out stands where it stood: output sample n is the signal at n/to seconds.
 *
 * @see J. O. Smith, "Digital Audio Resampling", CCRMA: band-limited interpolation; J. F. Kaiser (1974) for the window
 */
export class Resampler {
  readonly #up: number
  readonly #down: number
  readonly #reach: number
  readonly #weights: Float32Array
  /** Input that is still needed; the first sample of it is number `#first`. */
  #held: Float32Array
  #first: number
  #next = 0

  /**
   * @param from rate of what comes, Hz, a whole number
   * @param to rate of what is given, Hz, a whole number
   * @throws RangeError for rates that are none
   */
  constructor(from: number, to: number) {
    if (!(Number.isInteger(from) && Number.isInteger(to) && from > 0 && to > 0))
      throw new RangeError(`No sound has ${from} or ${to} samples a second.`)
    const common = gcd(from, to)
    this.#up = to / common
    this.#down = from / common
    const widened = Math.max(1, from / to)
    this.#reach = Math.ceil(CROSSINGS * widened)
    const cut = CUT / widened
    this.#weights = new Float32Array(this.#up * 2 * this.#reach)
    for (let place = 0; place < this.#up; place++) {
      let sum = 0
      const row = this.#weights.subarray(place * 2 * this.#reach, (place + 1) * 2 * this.#reach)
      for (let i = 0; i < row.length; i++) {
        const x = i - this.#reach + 1 - place / this.#up
        const window = bessel0(BETA * Math.sqrt(Math.max(0, 1 - (x / this.#reach) ** 2)))
        row[i] = (x === 0 ? 1 : Math.sin(Math.PI * cut * x) / (Math.PI * cut * x)) * window
        sum += row[i]!
      }
      // a constant stays what it is, wherever it is read
      for (let i = 0; i < row.length; i++) row[i]! /= sum
    }
    // before the beginning there was silence
    this.#held = new Float32Array(this.#reach)
    this.#first = -this.#reach
  }

  /**
   * @param input samples that follow on those of the call before
   * @returns samples that can be told by now: the last few, up to 64 of the lower rate, come with the next call
   */
  push(input: Float32Array): Float32Array<ArrayBuffer> {
    const held = new Float32Array(this.#held.length + input.length)
    held.set(this.#held)
    held.set(input, this.#held.length)
    const known = this.#first + held.length
    // the last output whose weights end within what is known
    const last = Math.ceil(((known - this.#reach) * this.#up) / this.#down)
    const out = new Float32Array(Math.max(0, last - this.#next))
    const taps = 2 * this.#reach
    for (let n = 0; n < out.length; n++, this.#next++) {
      const at = this.#next * this.#down
      const before = Math.floor(at / this.#up)
      const row = (at - before * this.#up) * taps
      const begin = before - this.#reach + 1 - this.#first
      let sum = 0
      for (let i = 0; i < taps; i++) sum += this.#weights[row + i]! * held[begin + i]!
      out[n] = sum
    }
    const needed = Math.floor((this.#next * this.#down) / this.#up) - this.#reach + 1
    const drop = Math.min(held.length, Math.max(0, needed - this.#first))
    this.#held = held.slice(drop)
    this.#first += drop
    return out
  }
}
