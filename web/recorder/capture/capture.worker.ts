/// <reference types="dom-mediacapture-transform" />
/**
 * Reads a microphone's track piece by piece, as its device gives it. Nothing between the device and here runs by another clock, so
 * whatever stands still meanwhile, the page or the audio thread, what was spoken waits in a queue.
 */
import { Resampler } from '#core/audio/signal/resample.ts'
import { SAMPLE_RATE } from '#core/timing/clocks.ts'
import { CaptureBuffer, type CaptureRequest } from './capture-buffer.ts'

const buffer = new CaptureBuffer((message) => postMessage(message))

/** @returns all channels as one, as an audio graph mixes them down */
function monoOf(piece: AudioData): Float32Array {
  const mono = new Float32Array(piece.numberOfFrames)
  const channel = new Float32Array(piece.numberOfFrames)
  for (let planeIndex = 0; planeIndex < piece.numberOfChannels; planeIndex++) {
    piece.copyTo(channel, { planeIndex, format: 'f32-planar' })
    for (let i = 0; i < mono.length; i++) mono[i]! += channel[i]! / piece.numberOfChannels
  }
  return mono
}

async function read(track: ReadableStream<AudioData>) {
  const reader = track.getReader()
  let [rate, sound] = [SAMPLE_RATE, 0]
  let resampler: Resampler | null = null
  for (;;) {
    const { value: piece, done } = await reader.read()
    if (done) return
    // a device may change its rate under way, as wireless ones do
    if (piece.sampleRate !== rate) {
      rate = piece.sampleRate
      resampler = rate === SAMPLE_RATE ? null : new Resampler(rate, SAMPLE_RATE)
    }
    const mono = monoOf(piece)
    const samples = resampler?.push(mono) ?? mono
    buffer.add(samples, samples.length, piece.timestamp / 1000, sound)
    sound += (1000 * mono.length) / rate
    piece.close()
  }
}

self.onmessage = ({ data }: { data: CaptureRequest | ReadableStream<AudioData> }) => {
  if (data instanceof ReadableStream) void read(data)
  else buffer.request(data)
}
