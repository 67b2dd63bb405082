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

/** The quietest pieces of a recording, weighted at their edges: where hum is heard alone. */
function quietPieces(low: Float64Array): Float64Array[] {
  const size = Math.min(low.length, Math.round((SAMPLE_RATE / LOWER_RATE) * LISTEN_S))
  const pieces: { energy: number; values: Float64Array }[] = []
  for (let at = 0; at + size <= low.length; at += Math.max(1, Math.floor(size / 4))) {
    let energy = 0
    const values = low.slice(at, at + size).map((v, i) => {
      energy += v * v
      return v * (1 - Math.cos((2 * Math.PI * (i + 0.5)) / size))
    })
    if (energy > 0) pieces.push({ energy, values })
  }
  pieces.sort((x, y) => x.energy - y.energy)
  return pieces.slice(0, Math.min(MOST_LISTENED, Math.ceil(pieces.length / 4))).map((piece) => piece.values)
}

/** Mean power of a sine at a frequency. */
function powerAt(pieces: readonly Float64Array[], hz: number): number {
  const step = (2 * Math.PI * hz * LOWER_RATE) / SAMPLE_RATE
  const [turnCos, turnSin] = [Math.cos(step), Math.sin(step)]
  let sum = 0
  for (const values of pieces) {
    let re = 0
    let im = 0
    let c = 1
    let s = 0
    for (let i = 0; i < values.length; i++) {
      re += values[i]! * c
      im += values[i]! * s
      const next = c * turnCos - s * turnSin
      s = c * turnSin + s * turnCos
      c = next
    }
    sum += (2 * (re * re + im * im)) / (values.length * values.length)
  }
  return sum / pieces.length
}

/**
 * @param samples mono, 48 kHz, one and a half seconds at least
 * @returns the mains frequency as it is in this recording (near 50 or 60 Hz); null when there is no hum
 */
export function findHum(samples: Float32Array): number | null {
  if (samples.length < toSamples(1.5)) return null
  const pieces = quietPieces(lowered(samples.subarray(0, toSamples(120))))
  if (pieces.length === 0) return null
  const db = (power: number) => 10 * Math.log10(power + 1e-16)
  let best: { hz: number; total: number } | null = null
  for (const mains of [50, 60]) {
    let hz = mains
    let strongest = 0
    for (let d = -WANDER_HZ; d <= WANDER_HZ + 1e-9; d += 0.025) {
      const sum = [1, 2, 3, 5].reduce((total, h) => total + powerAt(pieces, (mains + d) * h), 0)
      if (sum > strongest) {
        hz = mains + d
        strongest = sum
      }
    }
    const standing = [1, 2, 3, 4, 5, 6].flatMap((h) => {
      const beside = [-7, -4, 4, 7].reduce((total, d) => total + powerAt(pieces, hz * h + d) / 4, 0)
      const here = db(powerAt(pieces, hz * h))
      const over = here - db(beside)
      return over > STANDS_OUT_DB && here > LEAST_DB ? [over] : []
    })
    const total = standing.reduce((sum, over) => sum + over, 0)
    // noise alone lets one or two harmonics stand out by chance, but not far
    const sure =
      standing.length >= 3 || (standing.length === 2 && total > 2 * SURELY_DB) || standing.some((over) => over > ALONE_DB)
    if (sure && total > (best?.total ?? 0)) best = { hz, total }
  }
  return best && refined(pieces, best.hz)
}

/** The high harmonics drift many times as fast as the first: by them the frequency is found to a few thousandths of a hertz. */
function refined(pieces: readonly Float64Array[], coarse: number): number {
  let hz = coarse
  let strongest = 0
  for (let d = -0.03; d <= 0.03 + 1e-9; d += 0.0025) {
    let sum = 0
    // loud and faint harmonics count alike
    for (let h = 1; h <= 9; h++) sum += Math.sqrt(powerAt(pieces, (coarse + d) * h))
    if (sum > strongest) {
      hz = coarse + d
      strongest = sum
    }
  }
  return hz
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
export function takeHumAway(samples: Float32Array, mainsHz: number): Float32Array<ArrayBuffer> {
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
