/// <reference types="dom-mediacapture-transform" />
/** Inputs to choose from, the choice that stays, and how each is opened. */
import { type Message, message, say } from '#core/words/say.ts'
import { isPracticeMicrophone, openPracticeMicrophone, practiceMicrophones } from './practice-microphone.ts'

export interface Microphone {
  id: string
  name: string
}

const KEY = 'microphone'

export const chosenMicrophone = () => localStorage.getItem(KEY)
export const chooseMicrophone = (id: string) => localStorage.setItem(KEY, id)

/**
 * @returns inputs with their names, the practice microphone last. Before the browser was allowed to use a microphone once it names none, and may
 * list none.
 */
export async function listMicrophones(): Promise<Microphone[]> {
  const devices = (await navigator.mediaDevices?.enumerateDevices()) ?? []
  const inputs = devices.filter((d) => d.kind === 'audioinput' && d.deviceId !== '')
  return [
    ...inputs.map((d, i) => ({ id: d.deviceId, name: d.label || say('Microphone {number}', { number: i + 1 }) })),
    ...practiceMicrophones(),
  ]
}

/**
 * The input to open: the one that was chosen before when it is there, else the first device. The practice microphone is never chosen for
 * anybody: its voice would be taken for theirs.
 */
export const preferredMicrophone = (
  microphones: readonly Microphone[],
  chosen: string | null = chosenMicrophone(),
): Microphone | null => microphones.find((m) => m.id === chosen) ?? microphones.find((m) => !isPracticeMicrophone(m.id)) ?? null

export const NONE_FOUND = message(
  'No microphone was found. Plug one in and look again, or choose the practice microphone to try things out.',
)

export interface OpenMicrophone {
  node: AudioNode
  /** What a device gives; null when the sound is made in the page. */
  track: MediaStreamAudioTrack | null
  /** Told when a recording begins: the practice microphone then reads from its first word. */
  onRecord(): void
  close(): void
  /** Called when the microphone is gone while in use. */
  onLost(lost: () => void): void
}

/** A refusal or fault as a sentence that says what to do. */
export class MicrophoneProblem extends Error {
  constructor(problem: Message) {
    super(say(problem))
  }
}

export const NO_ANSWER = message(
  'The microphone does not answer; another program may be using it. Close that, or choose another one.',
)

function problemOf(error: unknown): MicrophoneProblem {
  const name = error instanceof DOMException ? error.name : ''
  if (name === 'NotAllowedError' || name === 'SecurityError') {
    return new MicrophoneProblem(
      message(
        'The browser does not let this page use the microphone. Allow it beside the address bar, or choose the practice microphone.',
      ),
    )
  }
  if (name === 'NotFoundError' || name === 'OverconstrainedError') {
    return new MicrophoneProblem(message('This microphone is not connected. Plug it in, or choose another one.'))
  }
  if (name === 'NotReadableError' || name === 'AbortError') {
    return new MicrophoneProblem(NO_ANSWER)
  }
  return new MicrophoneProblem(message('The microphone could not be opened. Choose another one, or try again.'))
}

/**
 * Opens an input as it is: the browser's own echo, noise and gain processing off.
 *
 * @throws MicrophoneProblem
 */
export async function openMicrophone(context: AudioContext, id: string): Promise<OpenMicrophone> {
  if (isPracticeMicrophone(id)) {
    const { node, readFromStart, close } = await openPracticeMicrophone(context, id)
    return { node, track: null, close, onRecord: readFromStart, onLost: () => {} }
  }
  if (!navigator.mediaDevices)
    throw new MicrophoneProblem(message('This browser gives no microphone here. Open Tidy Lectern at localhost, or over https.'))
  let stream: MediaStream
  try {
    const audio = {
      deviceId: { exact: id },
      echoCancellation: false,
      noiseSuppression: false,
      autoGainControl: false,
      channelCount: 1,
    }
    stream = await navigator.mediaDevices.getUserMedia({ audio })
  } catch (error) {
    throw problemOf(error)
  }
  const node = context.createMediaStreamSource(stream)
  return {
    node,
    track: stream.getAudioTracks()[0] ?? null,
    onRecord: () => {},
    close() {
      node.disconnect()
      for (const track of stream.getTracks()) track.stop()
    },
    onLost: (lost) => stream.getAudioTracks()[0]?.addEventListener('ended', lost),
  }
}

/** Asks for the microphone once, so that the browser tells the inputs' names. @throws MicrophoneProblem */
export async function askForMicrophone() {
  if (!navigator.mediaDevices) throw problemOf(null)
  const stream = await navigator.mediaDevices.getUserMedia({ audio: true }).catch((error) => {
    throw error instanceof DOMException && error.name === 'NotFoundError' ? new MicrophoneProblem(NONE_FOUND) : problemOf(error)
  })
  for (const track of stream.getTracks()) track.stop()
}
