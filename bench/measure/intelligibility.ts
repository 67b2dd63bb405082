/** How well speech can be understood, by comparison with the clean recording: ESTOI. */
import { realFft } from '#core/audio/signal/fft.ts'

const RATE = 10_000
const FRAME = 256
const HOP = 128
const FFT = 512
const BANDS = 15
const LOWEST_HZ = 150
const SEGMENT = 30 // frames, 384 ms
const RANGE_DB = 40

/** Low-pass at the new Nyquist and decimation 24 : 5, by windowed sinc (Kaiser, β 8). */
export function resampleTo10k(samples: Float32Array): Float64Array {
  const ratio = RATE / 48_000
  const half = 96
  const out = new Float64Array(Math.floor(samples.length * ratio))
  const bessel = (x: number) => {
    let [sum, term] = [1, 1]
    for (let k = 1; k < 30; k++) {
      term *= (x / (2 * k)) ** 2
      sum += term
    }
    return sum
  }
  const phases = 5 // 48000 / 10000 = 24 / 5
  const tables = Array.from({ length: phases }, (_, p) => {
    const centre = (p * 24) / 5
    const from = Math.ceil(centre - half)
    return {
      from,
      taps: Float64Array.from({ length: 2 * half }, (__, i) => {
        const t = from + i - centre
        const x = t * ratio * Math.PI * 0.96
        const window = Math.abs(t) <= half ? bessel(8 * Math.sqrt(1 - (t / half) ** 2)) / bessel(8) : 0
        return (x === 0 ? 1 : Math.sin(x) / x) * ratio * 0.96 * window
      }),
    }
  })
  const padded = new Float32Array(samples.length + 4 * half)
  padded.set(samples, 2 * half)
  for (let n = 0; n < out.length; n++) {
    const { from, taps } = tables[n % phases]!
    const base = Math.floor(n / phases) * 24 + from + 2 * half
    let sum = 0
    for (let i = 0; i < 2 * half; i++) sum += taps[i]! * padded[base + i]!
    out[n] = sum
  }
  return out
}

const hann = Float64Array.from({ length: FRAME }, (_, i) => 0.5 - 0.5 * Math.cos((2 * Math.PI * (i + 1)) / (FRAME + 1)))

/** Overlap-added signals without the frames in which the clean one is silent. */
function withoutSilence(clean: Float64Array, other: Float64Array): [Float64Array, Float64Array] {
  const starts: number[] = []
  const energies: number[] = []
  for (let at = 0; at + FRAME <= clean.length; at += HOP) {
    let sum = 0
    for (let i = 0; i < FRAME; i++) sum += (clean[at + i]! * hann[i]!) ** 2
    starts.push(at)
    energies.push(20 * Math.log10(Math.sqrt(sum) / Math.sqrt(FRAME) + 1e-16))
  }
  const loudest = energies.reduce((a, b) => Math.max(a, b), -1000)
  const kept = starts.filter((_, f) => energies[f]! - loudest + RANGE_DB > 0)
  const length = (kept.length - 1) * HOP + FRAME
  const put = (x: Float64Array) => {
    const out = new Float64Array(Math.max(0, length))
    kept.forEach((from, f) => {
      for (let i = 0; i < FRAME; i++) out[f * HOP + i] = out[f * HOP + i]! + x[from + i]! * hann[i]!
    })
    return out
  }
  return [put(clean), put(other)]
}

/** One-third octave bands from 150 Hz: `bands[band][frame]`, amplitudes. */
function bands(x: Float64Array): Float64Array[] {
  const fft = realFft(FFT)
  const [re, im] = [new Float64Array(fft.bins), new Float64Array(fft.bins)]
  const frames = Math.max(0, Math.floor((x.length - FRAME) / HOP) + 1)
  const edges = Array.from({ length: BANDS }, (_, j) => {
    const centre = LOWEST_HZ * 2 ** (j / 3)
    const bin = (hz: number) => Math.round((hz * FFT) / RATE)
    return [bin(centre * 2 ** (-1 / 6)), bin(centre * 2 ** (1 / 6))] as const
  })
  const out = edges.map(() => new Float64Array(frames))
  const input = new Float64Array(FFT)
  for (let f = 0; f < frames; f++) {
    for (let i = 0; i < FRAME; i++) input[i] = x[f * HOP + i]! * hann[i]!
    fft.forward(input, re, im)
    edges.forEach(([low, high], j) => {
      let sum = 0
      for (let k = low; k < high; k++) sum += re[k]! * re[k]! + im[k]! * im[k]!
      out[j]![f] = Math.sqrt(sum)
    })
  }
  return out
}

/** Brings `count` values, `stride` apart, to zero mean and unit norm, in place. */
function unit(values: Float64Array, from: number, count: number, stride: number) {
  let [mean, energy] = [0, 1e-30]
  for (let i = 0; i < count; i++) mean += values[from + i * stride]! / count
  for (let i = 0; i < count; i++) {
    const centred = values[from + i * stride]! - mean
    values[from + i * stride] = centred
    energy += centred * centred
  }
  const scale = 1 / Math.sqrt(energy)
  for (let i = 0; i < count; i++) values[from + i * stride] = values[from + i * stride]! * scale
}

/** One segment of all bands, rows and then columns brought to zero mean and unit norm. */
function segmentOf(rows: Float64Array[], end: number, into: Float64Array) {
  for (let j = 0; j < BANDS; j++) into.set(rows[j]!.subarray(end - SEGMENT, end), j * SEGMENT)
  for (let j = 0; j < BANDS; j++) unit(into, j * SEGMENT, SEGMENT, 1)
  for (let n = 0; n < SEGMENT; n++) unit(into, n, BANDS, SEGMENT)
}

/**
 * Extended short-time objective intelligibility.
 *
 * @param clean the speech alone, 48 kHz
 * @param other the same speech as heard, aligned to it
 * @returns −1 to 1, 1 for equal signals; not a number when there is less than one segment (384 ms) of speech
 * @see Jensen & Taal 2016, IEEE/ACM Trans. ASLP 24(11); front end as Taal et al. 2011, IEEE Trans. ASLP 19(7)
 */
export function estoi(clean: Float32Array, other: Float32Array): number {
  const [x, y] = withoutSilence(resampleTo10k(clean), resampleTo10k(other))
  const [bx, by] = [bands(x), bands(y)]
  const frames = bx[0]!.length
  const [cx, cy] = [new Float64Array(BANDS * SEGMENT), new Float64Array(BANDS * SEGMENT)]
  let sum = 0
  for (let end = SEGMENT; end <= frames; end++) {
    segmentOf(bx, end, cx)
    segmentOf(by, end, cy)
    for (let i = 0; i < cx.length; i++) sum += (cx[i]! * cy[i]!) / SEGMENT
  }
  return sum / (frames - SEGMENT + 1)
}
