/** Mains hum: found by itself at 50 or 60 Hz, and taken away with its harmonics without touching the voice between them. */
import { SAMPLE_RATE, toSamples } from '#core/timing/clocks.ts'

/** The mains wander by this much at most; common practice, no published source. */
const WANDER_HZ = 0.25
const HARMONICS = 14
const LOWER_RATE = 16 // 3 kHz is enough for the harmonics that matter
/** The hum is followed with windows this long; a voice passing over a harmonic is over long before. */
const WINDOW_S = 3
/** A harmonic counts when it stands this far above what lies between the harmonics. */
const STANDS_OUT_DB = 10
/** Two harmonics are enough when they stand out by this much. */
const SURELY_DB = 18
/** One alone, when it stands out by this much: nothing else in a quiet moment is so steady. */
const ALONE_DB = 28

/** Means of so many samples: a coarse low-pass that is good enough below 1 kHz. */
function lowered(samples: Float32Array): Float64Array {
  const out = new Float64Array(Math.floor(samples.length / LOWER_RATE))
  for (let n = 0; n < out.length; n++) {
    let sum = 0
    for (let i = 0; i < LOWER_RATE; i++) sum += samples[n * LOWER_RATE + i]!
    out[n] = sum / LOWER_RATE
  }
  return out
}

/** A harmonic that is heard at all, dBFS. */
const LEAST_DB = -92
const LISTEN_S = 2
const MOST_LISTENED = 8

interface Piece {
  /** First value's place in the lowered recording. */
  at: number
  values: Float64Array
  /** Weighted at its edges. */
  weighted: Float64Array
}

const hann = (values: Float64Array) => values.map((v, i) => v * (1 - Math.cos((2 * Math.PI * (i + 0.5)) / values.length)))

/** The quietest pieces of a recording: where hum is heard alone. */
function quietPieces(low: Float64Array): Piece[] {
  const size = Math.min(low.length, Math.round((SAMPLE_RATE / LOWER_RATE) * LISTEN_S))
  const hop = Math.max(1, Math.floor(size / 4))
  const pieces: { energy: number; at: number }[] = []
  for (let at = 0; at + size <= low.length; at += hop) {
    let energy = 0
    for (let i = at; i < at + size; i++) energy += low[i]! * low[i]!
    if (energy > 0) pieces.push({ energy, at })
  }
  pieces.sort((x, y) => x.energy - y.energy)
  return pieces.slice(0, Math.min(MOST_LISTENED, Math.ceil(pieces.length / 4))).map(({ at }) => {
    const values = low.slice(at, at + size)
    return { at, values, weighted: hann(values) }
  })
}

/** A sine's part in some values: real and imaginary. */
function partOf(values: Float64Array, hz: number): [number, number] {
  const step = (2 * Math.PI * hz * LOWER_RATE) / SAMPLE_RATE
  const [turnCos, turnSin] = [Math.cos(step), Math.sin(step)]
  let re = 0
  let im = 0
  let c = 1
  let s = 0
  for (let i = 0; i < values.length; i++) {
    re += values[i]! * c
    im -= values[i]! * s
    const next = c * turnCos - s * turnSin
    s = c * turnSin + s * turnCos
    c = next
  }
  return [re, im]
}

/** Samples whose turning beside a frequency that is looked at is left out: 4 ms, a thirty-sixth of a turn at 7 Hz. */
const STILL = 12

/** Mean powers of sines at a frequency and beside it. @param beside distances, Hz; 7 at most */
function powersNear(pieces: readonly Piece[], hz: number, beside: readonly number[]): number[] {
  const powers = beside.map(() => 0)
  const step = (2 * Math.PI * hz * LOWER_RATE) / SAMPLE_RATE
  const [turnCos, turnSin] = [Math.cos(step), Math.sin(step)]
  for (const { weighted } of pieces) {
    const count = Math.ceil(weighted.length / STILL)
    const [re, im] = [new Float64Array(count), new Float64Array(count)]
    let [c, s] = [1, 0]
    for (let i = 0; i < weighted.length; i++) {
      const at = (i / STILL) | 0
      re[at] = re[at]! + weighted[i]! * c
      im[at] = im[at]! - weighted[i]! * s
      const next = c * turnCos - s * turnSin
      s = c * turnSin + s * turnCos
      c = next
    }
    for (const [n, distance] of beside.entries()) {
      const slow = (2 * Math.PI * distance * STILL * LOWER_RATE) / SAMPLE_RATE
      const [slowCos, slowSin] = [Math.cos(slow), Math.sin(slow)]
      let sumRe = 0
      let sumIm = 0
      c = 1
      s = 0
      for (let at = 0; at < count; at++) {
        sumRe += re[at]! * c + im[at]! * s
        sumIm += im[at]! * c - re[at]! * s
        const next = c * slowCos - s * slowSin
        s = c * slowSin + s * slowCos
        c = next
      }
      powers[n] = powers[n]! + (2 * (sumRe * sumRe + sumIm * sumIm)) / (weighted.length * weighted.length) / pieces.length
    }
  }
  return powers
}

/** The mains wander: distances that are looked at, Hz. */
const WANDERED = Array.from({ length: 21 }, (_, i) => (i - 10) * (WANDER_HZ / 10))

/** Mains hum is heard in the beginning of a recording, samples. */
export const HUM_HEARD = toSamples(120)

/**
 * @param samples mono, 48 kHz, one and a half seconds at least
 * @returns the mains frequency as it is in this recording (near 50 or 60 Hz); null when there is no hum
 */
export function findHum(samples: Float32Array): number | null {
  if (samples.length < toSamples(1.5)) return null
  const pieces = quietPieces(lowered(samples.subarray(0, HUM_HEARD)))
  if (pieces.length === 0) return null
  const db = (power: number) => 10 * Math.log10(power + 1e-16)
  let best: { hz: number; total: number } | null = null
  for (const mains of [50, 60]) {
    const sums = WANDERED.map(() => 0)
    for (const h of [1, 2, 3, 5]) {
      const near = powersNear(
        pieces,
        mains * h,
        WANDERED.map((d) => d * h),
      )
      near.forEach((power, i) => {
        sums[i] = sums[i]! + power
      })
    }
    const hz = mains + WANDERED[sums.indexOf(Math.max(...sums))]!
    const standing = [1, 2, 3, 4, 5, 6].flatMap((h) => {
      const [here, ...beside] = powersNear(pieces, hz * h, [0, -7, -4, 4, 7])
      const over = db(here!) - db(beside.reduce((total, power) => total + power / 4, 0))
      return over > STANDS_OUT_DB && db(here!) > LEAST_DB ? [over] : []
    })
    const total = standing.reduce((sum, over) => sum + over, 0)
    // noise alone lets one or two harmonics stand out by chance, but not far
    const sure =
      standing.length >= 3 || (standing.length === 2 && total > 2 * SURELY_DB) || standing.some((over) => over > ALONE_DB)
    if (sure && total > (best?.total ?? 0)) best = { hz, total }
  }
  return best && refined(pieces, best.hz)
}

/** By how much the second part is turned from the first, beyond what was to be expected: real and imaginary. */
function turnFrom(a: [number, number], b: [number, number], expected: number): [number, number] {
  const [c, s] = [Math.cos(expected), Math.sin(expected)]
  const second = [b[0] * c + b[1] * s, b[1] * c - b[0] * s] as const
  return [a[0] * second[0] + a[1] * second[1], a[0] * second[1] - a[1] * second[0]]
}

/**
 * Finer than any search: by how much each harmonic's phase turns from the first half of a piece to the second. High harmonics turn
 * the most, so they count by their number as well as by their power.
 */
function refined(pieces: readonly Piece[], coarse: number): number {
  let hz = coarse
  for (let round = 0; round < 2; round++) {
    let [drift, weight] = [0, 1e-30]
    for (const { values } of pieces) {
      const half = Math.floor(values.length / 2)
      const apart = (half * LOWER_RATE) / SAMPLE_RATE
      const halves = [hann(values.slice(0, half)), hann(values.slice(half, 2 * half))] as const
      for (let h = 1; h <= 7; h++) {
        const [a, b] = [partOf(halves[0], hz * h), partOf(halves[1], hz * h)]
        // the second half begins where the pointer has gone round so many times
        const turned = 2 * Math.PI * hz * h * apart
        const [re, im] = turnFrom(a, b, turned)
        const trust = Math.hypot(re, im) * h
        drift += trust * (Math.atan2(im, re) / (2 * Math.PI * h * apart))
        weight += trust
      }
    }
    hz += drift / weight
  }
  return hz + driftBetween(pieces, hz)
}

/** Pieces further apart are not compared: the mains may have turned by more than can be told. */
const COMPARED_S = 6

/** Finer still: the same between pieces that are seconds apart. @returns Hz to be added */
function driftBetween(pieces: readonly Piece[], hz: number): number {
  const inOrder = [...pieces].sort((x, y) => x.at - y.at)
  let [drift, weight] = [0, 1e-30]
  for (let h = 1; h <= 5; h++) {
    const parts = inOrder.map(({ weighted }) => partOf(weighted, hz * h))
    for (let p = 0; p + 1 < inOrder.length; p++) {
      const apart = ((inOrder[p + 1]!.at - inOrder[p]!.at) * LOWER_RATE) / SAMPLE_RATE
      if (apart > COMPARED_S) continue
      const [a, b] = [parts[p]!, parts[p + 1]!]
      const turned = 2 * Math.PI * hz * h * apart
      const [re, im] = turnFrom(a, b, turned)
      const trust = Math.hypot(re, im) * h * h * apart * apart
      drift += trust * (Math.atan2(im, re) / (2 * Math.PI * h * apart))
      weight += trust
    }
  }
  return drift / weight
}

/** How much each sample tells of the hum: the less, the more there is beside it. A voice counts for nothing next to a pause. */
function reliability(low: Float64Array): Float64Array {
  const piece = Math.round((SAMPLE_RATE / LOWER_RATE) * 0.04)
  const out = new Float64Array(low.length)
  for (let at = 0; at < low.length; at += piece) {
    const end = Math.min(low.length, at + piece)
    let power = 1e-10
    for (let i = at; i < end; i++) power += (low[i]! * low[i]!) / (end - at)
    out.fill(1 / power ** 1.5, at, end)
  }
  return out
}

/**
 * Subtracts hum: each harmonic's amplitude and phase are followed by a long Hann window on the demodulated signal.
 *
 * @param mainsHz as `findHum` tells it
 * @returns a new signal of the same length
 */
export function removeHum(samples: Float32Array, mainsHz: number): Float32Array<ArrayBuffer> {
  const low = lowered(samples)
  const rate = SAMPLE_RATE / LOWER_RATE
  const out = samples.slice()
  const hop = Math.round(rate * (WINDOW_S / 4))
  const half = Math.round((rate * WINDOW_S) / 2)
  const points = Math.ceil(low.length / hop) + 1
  const window = Float64Array.from({ length: 2 * half }, (_, i) => 0.5 - 0.5 * Math.cos((2 * Math.PI * (i + 0.5)) / (2 * half)))
  const trust = reliability(low)
  const amplitude = new Float64Array(points * 2)
  for (let h = 1; h <= HARMONICS; h++) {
    const hz = mainsHz * h
    const step = (2 * Math.PI * hz) / rate
    // the mean of 16 samples weakens and delays what it lowers
    const x = (Math.PI * hz) / SAMPLE_RATE
    const mean = Math.sin(LOWER_RATE * x) / (LOWER_RATE * Math.sin(x))
    const delay = (LOWER_RATE - 1) / 2
    const [turnCos, turnSin] = [Math.cos(step), Math.sin(step)]
    for (let p = 0; p < points; p++) {
      const from = Math.max(0, p * hop - half)
      const to = Math.min(low.length, p * hop + half)
      let [re, im, weight] = [0, 0, 1e-300]
      // a rotating pointer costs two products a sample where a sine would cost fifty
      let [c, s] = [Math.cos(step * from), Math.sin(step * from)]
      for (let at = from; at < to; at++) {
        const w = window[at - p * hop + half]! * trust[at]!
        const v = w * low[at]!
        re += v * c
        im -= v * s
        weight += w
        const next = c * turnCos - s * turnSin
        s = c * turnSin + s * turnCos
        c = next
      }
      amplitude[2 * p] = (2 * re) / weight / mean
      amplitude[2 * p + 1] = (2 * im) / weight / mean
    }
    const turn = (2 * Math.PI * hz) / SAMPLE_RATE
    const [fineCos, fineSin] = [Math.cos(turn), Math.sin(turn)]
    const spacing = hop * LOWER_RATE
    for (let p = 0; p + 1 < points; p++) {
      const from = p * spacing
      const to = Math.min(out.length, from + spacing)
      let [c, s] = [Math.cos(turn * (from - delay)), Math.sin(turn * (from - delay))]
      let re = amplitude[2 * p]!
      let im = amplitude[2 * p + 1]!
      const reStep = (amplitude[2 * p + 2]! - re) / spacing
      const imStep = (amplitude[2 * p + 3]! - im) / spacing
      for (let at = from; at < to; at++) {
        out[at] = out[at]! - (re * c - im * s)
        re += reStep
        im += imStep
        const next = c * fineCos - s * fineSin
        s = c * fineSin + s * fineCos
        c = next
      }
    }
  }
  return out
}
