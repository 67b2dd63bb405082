/** What we compare ourselves with, in the same run on the same clips. */
import { execFileSync } from 'node:child_process'
import { fromInt16, toInt16 } from '#core/audio/signal/pcm.ts'
import { levelIn, type Span } from '../measure/signal.ts'

const raw = ['-f', 's16le', '-ar', '48000', '-ac', '1']

/** The media tool's FFT denoiser, shown where only the room is heard and told how loud that is. */
export function fftDenoiser(noisy: Float32Array, room: Span): Float32Array {
  const [from, to] = [(room.start / 48_000).toFixed(3), (room.end / 48_000).toFixed(3)]
  // its noise floor decides more than the sample does; 6 dB over the room served it best of what was tried (−50, ±0, +6)
  const floor = Math.max(-80, Math.min(-20, Math.round(levelIn(noisy, [room]) + 6)))
  // it answers late by its window, and drops the end: a second of silence brings all of it out
  const filter = `apad=pad_dur=1,asendcmd='${from} afftdn sn start; ${to} afftdn sn stop',afftdn=nr=30:nf=${floor}`
  const pcm = toInt16(noisy)
  const out = execFileSync('ffmpeg', ['-loglevel', 'error', ...raw, '-i', 'pipe:0', '-af', filter, ...raw, 'pipe:1'], {
    input: new Uint8Array(pcm.buffer, pcm.byteOffset, pcm.byteLength),
    maxBuffer: 1 << 30,
  })
  const samples = fromInt16(new Int16Array(out.buffer.slice(out.byteOffset, out.byteOffset + (out.length & ~1))))
  fftDelay ??= delayOf(samples, noisy)
  const aligned = new Float32Array(noisy.length)
  aligned.set(samples.subarray(fftDelay, fftDelay + noisy.length))
  return aligned
}

let fftDelay: number | null = null

/** How late a signal is, in samples: the lag at which it is most like the one it was made of. */
function delayOf(late: Float32Array, early: Float32Array): number {
  const [from, length, most] = [Math.floor(early.length / 3), 48_000, 8192]
  let [best, delay] = [Number.NEGATIVE_INFINITY, 0]
  for (let lag = 0; lag < most; lag++) {
    let sum = 0
    for (let i = from; i < from + length; i++) sum += early[i]! * late[i + lag]!
    if (sum > best) [best, delay] = [sum, lag]
  }
  return delay
}

/** RNNoise's output is late by this much in the build used; found by cross-correlation. */
const RNNOISE_DELAY = 960

/** RNNoise alone (package @shiguredo/rnnoise-wasm), its delay taken out. */
export async function rnnoise(): Promise<(noisy: Float32Array) => Float32Array> {
  // the package runs only where it sees a worker or a page
  const scope = globalThis as Record<string, unknown>
  scope.self ??= globalThis
  scope.WorkerGlobalScope ??= class {}
  scope.location ??= { href: import.meta.url }
  const { Rnnoise } = await import('@shiguredo/rnnoise-wasm')
  const library = await Rnnoise.load()
  return (noisy) => {
    const state = library.createDenoiseState()
    const size = library.frameSize
    const out = new Float32Array(noisy.length + RNNOISE_DELAY + size)
    const frame = new Float32Array(size)
    for (let at = 0; at + size <= out.length; at += size) {
      for (let i = 0; i < size; i++) frame[i] = (noisy[at + i] ?? 0) * 32768
      state.processFrame(frame)
      for (let i = 0; i < size; i++) out[at + i] = frame[i]! / 32768
    }
    state.destroy()
    return out.slice(RNNOISE_DELAY, RNNOISE_DELAY + noisy.length)
  }
}
