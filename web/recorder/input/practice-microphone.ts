/** The practice microphone: a stand-in that reads a text in a noisy room, chosen like any other input. */

import { PRACTICE_MICROPHONE } from '#core/recording/practice-voice.ts'
import { type Message, message, say } from '#core/words/say.ts'
import voiceUrl from './practice-voice.flac?url'

/** How the voice, the room and the mains are heard in a scene, in dB. */
interface Scene {
  scene: Message
  voice: number
  room: number
  hum: number
  /** Somebody coughs between the sentences. */
  cough?: boolean
}

const USUAL: Scene = { scene: message('usual room'), voice: 0, room: -52, hum: -58 }
const SCENES: Record<string, Scene> = {
  practice: USUAL,
  'practice-quiet-room': {
    ...USUAL,
    scene: message('quiet room'),
    room: -74,
    hum: -96,
  },
  'practice-fan': { ...USUAL, scene: message('beside a fan'), room: -28 },
  'practice-hum': { ...USUAL, scene: message('mains hum'), room: -66, hum: -38 },
  'practice-loud': { ...USUAL, scene: message('too loud'), voice: 22, room: -40 },
  'practice-faint': {
    ...USUAL,
    scene: message('too quiet'),
    voice: -34,
    room: -78,
    hum: -90,
  },
  'practice-cough': { ...USUAL, scene: message('with a cough'), cough: true },
}

export const USUAL_SCENE = 'practice'

/** Inputs that need no device, one for each scene. */
export const practiceMicrophones = () =>
  Object.entries(SCENES).map(([id, { scene }]) => ({
    id,
    name: scene === USUAL.scene ? say('Practice microphone') : say('Practice microphone, {scene}', { scene }),
  }))
/** What is said of a scene where the microphone is named already. */
export const practiceScenes = () => Object.entries(SCENES).map(([id, { scene }]) => ({ id, says: say(scene) }))
/** What is kept with a take, the same in every language: by it a made-up voice is known. */
export const keptName = ({ id, name }: { id: string; name: string }) =>
  isPracticeMicrophone(id) ? `${PRACTICE_MICROPHONE}, ${SCENES[id]!.scene.id}` : name
export const isPracticeMicrophone = (id: string) => Object.hasOwn(SCENES, id)
const COUGH_S = 0.35
const SILENT_BEGINNING_S = 0.8
const SILENT_BETWEEN_S = 1.6

const gainOf = (context: AudioContext, db: number) => new GainNode(context, { gain: 10 ** (db / 20) })

export interface PracticeMicrophone {
  node: AudioNode
  /** Begins the text from its first word. */
  readFromStart(): void
  close(): void
}

/** A burst of noise that dies away. */
function layCough(samples: Float32Array<ArrayBuffer>, at: number, rate: number) {
  for (let i = 0; i < COUGH_S * rate && at + i < samples.length; i++) {
    const fade = Math.exp(-i / (0.08 * rate)) * Math.min(1, i / (0.01 * rate))
    samples[at + i]! += (Math.random() * 2 - 1) * 0.7 * fade
  }
}

/** @returns an input into which somebody reads a text, over and over, in the room of a scene */
export async function openPracticeMicrophone(context: AudioContext, id: string): Promise<PracticeMicrophone> {
  const scene = SCENES[id] ?? USUAL
  const bytes = await (await fetch(voiceUrl)).arrayBuffer()
  const voice = await context.decodeAudioData(bytes)
  const rate = context.sampleRate
  const text = context.createBuffer(1, voice.length + Math.round((SILENT_BEGINNING_S + SILENT_BETWEEN_S) * rate), rate)
  const said = text.getChannelData(0)
  said.set(voice.getChannelData(0), Math.round(SILENT_BEGINNING_S * rate))
  if (scene.cough) layCough(said, text.length - Math.round(0.8 * rate), rate)
  const hiss = context.createBuffer(1, rate * 3, rate)
  const samples = hiss.getChannelData(0)
  for (let i = 0; i < samples.length; i++) samples[i] = (Math.random() * 2 - 1) * Math.sqrt(3)
  const room = new AudioBufferSourceNode(context, { buffer: hiss, loop: true })
  const hum = new OscillatorNode(context, { frequency: 50 })
  const node = new GainNode(context)
  const loudness = gainOf(context, scene.voice)
  loudness.connect(node)
  const read = () => {
    const reader = new AudioBufferSourceNode(context, { buffer: text, loop: true })
    reader.connect(loudness)
    reader.start()
    return reader
  }
  let reader = read()
  room.connect(gainOf(context, scene.room)).connect(node)
  hum.connect(gainOf(context, scene.hum)).connect(node)
  for (const source of [room, hum]) source.start()
  return {
    node,
    readFromStart() {
      reader.stop()
      reader = read()
    },
    close() {
      for (const source of [reader, room, hum]) source.stop()
      node.disconnect()
    },
  }
}
