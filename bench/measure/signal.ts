/** Figures of a cleaned signal beside the clean and the noisy one. All signals 48 kHz, aligned, equal lengths. */
import { realFft } from '#core/audio/signal/fft.ts'
import { applyBiquad, highPass } from '#core/audio/signal/filters.ts'
import { toDb } from '#core/audio/signal/pcm.ts'

export interface Span {
  /** Samples. */
  start: number
  end: number
}

/**
 * Scale-invariant signal-to-distortion ratio after a high-pass at 100 Hz.
 *
 * @returns dB
 * @see Le Roux et al. 2019, ICASSP, equation 4
 */
export function siSdr(clean: Float32Array, other: Float32Array): number {
  const f = highPass(100, 48_000)
  const [s, y] = [applyBiquad(clean, f), applyBiquad(other, f)]
  let [dot, energy] = [0, 0]
  for (let i = 0; i < s.length; i++) {
    dot += s[i]! * y[i]!
    energy += s[i]! * s[i]!
  }
  const scale = dot / energy
  let [target, error] = [0, 0]
  for (let i = 0; i < s.length; i++) {
    const t = scale * s[i]!
    target += t * t
    error += (y[i]! - t) ** 2
  }
  return 10 * Math.log10(target / (error + 1e-20))
}

/** Root mean square over spans, dBFS. */
export function levelIn(samples: Float32Array, spans: readonly Span[]): number {
  let [sum, count] = [0, 0]
  for (const { start, end } of spans) {
    for (let i = start; i < end; i++) sum += samples[i]! * samples[i]!
    count += end - start
  }
  return toDb(Math.sqrt(sum / count) + 1e-9)
}

/** The loudest 50 ms inside spans, dBFS. */
export function worstPiece(samples: Float32Array, spans: readonly Span[], length = 2400): number {
  let worst = -180
  for (const { start, end } of spans)
    for (let at = start; at + length <= end; at += length / 2)
      worst = Math.max(worst, levelIn(samples, [{ start: at, end: at + length }]))
  return worst
}

/** Kurtosis of the power spectrum over the frames of spans, of all bins together, each bin by its own mean. */
function kurtosis(samples: Float32Array, spans: readonly Span[]): number {
  const size = 1024
  const fft = realFft(size)
  const [re, im] = [new Float64Array(fft.bins), new Float64Array(fft.bins)]
  const window = Float64Array.from({ length: size }, (_, i) => 0.5 - 0.5 * Math.cos((2 * Math.PI * i) / size))
  const rows: Float64Array[] = []
  const input = new Float64Array(size)
  for (const { start, end } of spans) {
    for (let at = start; at + size <= end; at += size / 2) {
      for (let i = 0; i < size; i++) input[i] = samples[at + i]! * window[i]!
      fft.forward(input, re, im)
      rows.push(Float64Array.from({ length: fft.bins }, (_, k) => re[k]! ** 2 + im[k]! ** 2))
    }
  }
  // bins from 100 Hz to 8 kHz
  let [second, fourth, count] = [0, 0, 0]
  for (let k = 3; k < 171; k++) {
    const mean = rows.reduce((sum, row) => sum + row[k]!, 0) / rows.length + 1e-30
    for (const row of rows) {
      const v = row[k]! / mean
      second += v ** 2
      fourth += v ** 4
      count++
    }
  }
  return fourth / count / (second / count) ** 2
}

/**
 * Musical noise: how much more the power spectrum of pauses has become a matter of lone peaks.
 *
 * @returns natural logarithm of the ratio of kurtoses after and before; 0 when the noise kept its character
 * @see Uemura et al. 2008, IWAENC (log-kurtosis ratio)
 */
export function logKurtosisRatio(before: Float32Array, after: Float32Array, spans: readonly Span[]): number {
  return Math.log(kurtosis(after, spans) / kurtosis(before, spans))
}
