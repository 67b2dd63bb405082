/** Short-time Fourier transform with perfect reconstruction: square-root Hann window, both ways. */
import { type RealFft, realFft } from './fft.ts'

export interface Stft {
  size: number
  hop: number
  bins: number
  frames: number
  /** Row by row: `frames × bins`. */
  re: Float32Array
  im: Float32Array
}

/** @returns periodic square-root Hann window */
function sqrtHann(size: number): Float64Array {
  return Float64Array.from({ length: size }, (_, i) => Math.sin((Math.PI * i) / size))
}

/**
 * @param samples any length; padded with `size` zeros on both sides, so that edges are reconstructed too
 * @param size window length, a power of two
 * @param hop at most size / 2
 */
export function stft(samples: Float32Array, size: number, hop: number): Stft {
  const fft: RealFft = realFft(size)
  const window = sqrtHann(size)
  const frames = Math.ceil((samples.length + size) / hop)
  const { bins } = fft
  const re = new Float32Array(frames * bins)
  const im = new Float32Array(frames * bins)
  const input = new Float64Array(size)
  const [fr, fi] = [new Float64Array(bins), new Float64Array(bins)]
  for (let f = 0; f < frames; f++) {
    const start = f * hop - size + hop
    if (start >= 0 && start + size <= samples.length) {
      for (let i = 0; i < size; i++) input[i] = samples[start + i]! * window[i]!
    } else {
      for (let i = 0; i < size; i++) {
        const at = start + i
        input[i] = at >= 0 && at < samples.length ? samples[at]! * window[i]! : 0
      }
    }
    fft.forward(input, fr, fi)
    const row = f * bins
    for (let k = 0; k < bins; k++) {
      re[row + k] = fr[k]!
      im[row + k] = fi[k]!
    }
  }
  return { size, hop, bins, frames, re, im }
}

/**
 * The way back by overlap and add.
 *
 * @param length of the signal in samples
 */
export function inverseStft(spectrum: Stft, length: number): Float32Array<ArrayBuffer> {
  const { size, hop, bins, frames } = spectrum
  const fft = realFft(size)
  const window = sqrtHann(size)
  const out = new Float32Array(length)
  const weight = size / hop / 2 // overlapping squared windows add up to this
  for (let i = 0; i < size; i++) window[i] = window[i]! / weight
  const output = new Float64Array(size)
  const [fr, fi] = [new Float64Array(bins), new Float64Array(bins)]
  for (let f = 0; f < frames; f++) {
    const row = f * bins
    for (let k = 0; k < bins; k++) {
      fr[k] = spectrum.re[row + k]!
      fi[k] = spectrum.im[row + k]!
    }
    fft.inverse(fr, fi, output)
    const start = f * hop - size + hop
    const end = Math.min(size, length - start)
    for (let i = Math.max(0, -start); i < end; i++) out[start + i] = out[start + i]! + output[i]! * window[i]!
  }
  return out
}
