/** Short-time Fourier transform with perfect reconstruction: square-root Hann window, both ways. */
import { FRAMES_TOGETHER, kernels } from '#core/audio/wasm/kernels.ts'
import { memoryPart } from '#core/audio/wasm/memory-map.ts'

/** Samples under a window, and from one window to the next. */
export const SIZE = 1024
export const HOP = 256
export const BINS = SIZE / 2 + 1

export interface Stft {
  frames: number
  /** Row by row: `frames × BINS`. */
  re: Float32Array
  im: Float32Array
}

/** Overlapping squared windows add up to this. */
const OVERLAP = SIZE / HOP / 2
/** Frames that go through the kernels' memory at a time. */
const CHUNK = 64
const SPAN = (CHUNK - 1) * HOP + SIZE

/** Places in the kernels' memory, in floats: samples, then bins of frames that are transformed together. */
function places() {
  const { floats, take } = memoryPart('work')
  return { floats, signal: take(SPAN), re: take(FRAMES_TOGETHER * BINS), im: take(FRAMES_TOGETHER * BINS) }
}

/** First sample under a frame's window; the first frames lie partly before the signal, so that its edges are reconstructed too. */
export const frameStart = (frame: number) => frame * HOP - SIZE + HOP

/** @param samples any length; beyond its ends there is silence */
export function stft(samples: Float32Array): Stft {
  const frames = Math.ceil((samples.length + SIZE) / HOP)
  const re = new Float32Array(frames * BINS)
  const im = new Float32Array(frames * BINS)
  const { forward4 } = kernels()
  const at = places()
  for (let first = 0; first < frames; first += CHUNK) {
    const start = frameStart(first)
    at.floats.fill(0, at.signal, at.signal + SPAN)
    const [from, to] = [Math.max(0, start), Math.min(samples.length, start + SPAN)]
    if (to > from) at.floats.set(samples.subarray(from, to), at.signal + from - start)
    for (let f = first; f < Math.min(frames, first + CHUNK); f += FRAMES_TOGETHER) {
      forward4((at.signal + (f - first) * HOP) * 4, HOP, at.re * 4, at.im * 4)
      const values = Math.min(FRAMES_TOGETHER, frames - f) * BINS
      re.set(at.floats.subarray(at.re, at.re + values), f * BINS)
      im.set(at.floats.subarray(at.im, at.im + values), f * BINS)
    }
  }
  return { frames, re, im }
}

/** Changes a frame on its way back: the kernels' memory holds its bins from `re` and from `im` on, in floats. */
export type FrameChange = (frame: number, re: number, im: number) => void

/**
 * The way back by overlap and add.
 *
 * @param length of the signal in samples
 * @param change is called for each frame in order; what is given in stays as it is
 */
export function inverseStft({ frames, re, im }: Stft, length: number, change?: FrameChange): Float32Array<ArrayBuffer> {
  const out = new Float32Array(length)
  const { inverse4 } = kernels()
  const at = places()
  for (let first = 0; first < frames; first += CHUNK) {
    at.floats.fill(0, at.signal, at.signal + SPAN)
    for (let f = first; f < Math.min(frames, first + CHUNK); f += FRAMES_TOGETHER) {
      const values = Math.min(FRAMES_TOGETHER, frames - f) * BINS
      at.floats.fill(0, at.re, at.im + FRAMES_TOGETHER * BINS)
      at.floats.set(re.subarray(f * BINS, f * BINS + values), at.re)
      at.floats.set(im.subarray(f * BINS, f * BINS + values), at.im)
      if (change) for (let n = 0; n * BINS < values; n++) change(f + n, at.re + n * BINS, at.im + n * BINS)
      inverse4(at.re * 4, at.im * 4, HOP, (at.signal + (f - first) * HOP) * 4, 1 / OVERLAP)
    }
    const start = frameStart(first)
    const end = Math.min(length, start + SPAN)
    for (let i = Math.max(0, start); i < end; i++) out[i] = out[i]! + at.floats[at.signal + i - start]!
  }
  return out
}
