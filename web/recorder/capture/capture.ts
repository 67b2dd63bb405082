/// <reference types="dom-mediacapture-transform" />
/**
 * A microphone's samples on their way into the page. Where the browser lets one read a track itself that is done, in a worker; else, and
 * for what is not a device, the audio thread gathers them. The first loses nothing while the audio thread stands still; the second does.
 */

import { MicrophoneProblem, NO_ANSWER, type OpenMicrophone } from '#web/recorder/input/microphones.ts'
import { chosenQuality } from '#web/recorder/input/quality.ts'
import type { CaptureOptions } from './capture.worklet.ts'
import captureUrl from './capture.worklet.ts?worker&url'
import type { CaptureAnswer, CapturedSamples, CaptureMessage, CaptureRequest } from './capture-buffer.ts'

/** The browser may let go no piece that waits to be read: it is asked to keep ten seconds of 10 ms each. */
const MOST_WAITING = 1000
/** Who has not answered for so long is gone. */
const GONE_MS = 5000

export interface Capture {
  /** Told as they come, between start and stop but for rests: samples at 48 kHz, mono. */
  onSamples: (samples: Float32Array, captured: Pick<CapturedSamples, 'at' | 'when'>) => void
  start(): Promise<CaptureAnswer | null>
  /** Asks the one that counts samples. @returns null when it is gone */
  ask(ask: 'pause' | 'resume' | 'where' | 'stop'): Promise<CaptureAnswer | null>
  close(): void
}

/** Where requests go, and what closes it. */
interface Thread {
  post(message: CaptureRequest): void
  close(): void
}
type Hear = (message: CaptureMessage) => void

function readableOf(track: MediaStreamAudioTrack): ReadableStream<AudioData> | null {
  try {
    return new MediaStreamTrackProcessor({ track, maxBufferSize: MOST_WAITING }).readable
  } catch {
    // a name that is not there, or a reader of pictures only
    return null
  }
}

/** @returns null where the browser has no reader for the sound of a track */
function readTrack(track: MediaStreamAudioTrack, hear: Hear): Thread | null {
  const readable = readableOf(track)
  if (!readable) return null
  const worker = new Worker(new URL('./capture.worker.ts', import.meta.url), { type: 'module' })
  worker.onmessage = ({ data }: { data: CaptureMessage }) => hear(data)
  worker.postMessage(readable, [readable])
  return { post: (message) => worker.postMessage(message), close: () => worker.terminate() }
}

async function readNode(context: AudioContext, node: AudioNode, isDevice: boolean, hear: Hear): Promise<Thread> {
  await context.audioWorklet.addModule(captureUrl)
  const capture = new AudioWorkletNode(context, 'capture', {
    numberOfOutputs: 0,
    channelCount: 1,
    channelCountMode: 'explicit',
    processorOptions: { isDevice } satisfies CaptureOptions,
  })
  capture.port.onmessage = ({ data }: { data: CaptureMessage }) => hear(data)
  node.connect(capture)
  return {
    post: (message) => capture.port.postMessage(message),
    close() {
      capture.port.postMessage('close')
      node.disconnect(capture)
    },
  }
}

/**
 * @returns what gathers the samples of an open microphone, until it is closed
 * @throws MicrophoneProblem
 */
export async function openCapture(context: AudioContext, { node, track }: OpenMicrophone): Promise<Capture> {
  const waiting = new Map<number, (answer: CaptureAnswer) => void>()
  const hear: Hear = (message) => {
    if ('samples' in message) return capture.onSamples(message.samples, message)
    waiting.get(message.id)?.(message)
    waiting.delete(message.id)
  }
  const thread = (track && readTrack(track, hear)) ?? (await readNode(context, node, track !== null, hear))
  let asked = 0
  const answerTo = (request: (id: number) => CaptureRequest) =>
    new Promise<CaptureAnswer | null>((resolve) => {
      const id = asked++
      waiting.set(id, resolve)
      setTimeout(() => resolve(null), GONE_MS)
      thread.post(request(id))
    })
  const capture: Capture = {
    onSamples: () => {},
    start: () => answerTo((id) => ({ ask: 'start', id, quality: chosenQuality() })),
    ask: (ask) => answerTo((id) => ({ ask, id })),
    close: thread.close,
  }
  if (await capture.ask('stop')) return capture
  thread.close()
  throw new MicrophoneProblem(NO_ANSWER)
}
