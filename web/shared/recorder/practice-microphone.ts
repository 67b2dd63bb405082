/** The practice microphone: a stand-in that reads a text in a noisy room, chosen like any other input. */
import voiceUrl from './practice-voice.flac?url'

export const PRACTICE_MICROPHONE = 'practice'
const ROOM_DB = -52
const HUM_DB = -58
const SILENT_BEGINNING_S = 0.8
const SILENT_BETWEEN_S = 1.6

const gainOf = (context: AudioContext, db: number) => new GainNode(context, { gain: 10 ** (db / 20) })

export interface PracticeMicrophone {
  node: AudioNode
  /** Begins the text from its first word. */
  readFromStart(): void
  close(): void
}

/** @returns an input into which somebody reads a text, over and over, in a room with a fan and mains hum */
export async function openPracticeMicrophone(context: AudioContext): Promise<PracticeMicrophone> {
  const bytes = await (await fetch(voiceUrl)).arrayBuffer()
  const voice = await context.decodeAudioData(bytes)
  const rate = context.sampleRate
  const text = context.createBuffer(1, voice.length + Math.round((SILENT_BEGINNING_S + SILENT_BETWEEN_S) * rate), rate)
  text.copyToChannel(voice.getChannelData(0), 0, Math.round(SILENT_BEGINNING_S * rate))
  const hiss = context.createBuffer(1, rate * 3, rate)
  const samples = hiss.getChannelData(0)
  for (let i = 0; i < samples.length; i++) samples[i] = (Math.random() * 2 - 1) * Math.sqrt(3)
  const room = new AudioBufferSourceNode(context, { buffer: hiss, loop: true })
  const hum = new OscillatorNode(context, { frequency: 50 })
  const node = new GainNode(context)
  const read = () => {
    const reader = new AudioBufferSourceNode(context, { buffer: text, loop: true })
    reader.connect(node)
    reader.start()
    return reader
  }
  let reader = read()
  room.connect(gainOf(context, ROOM_DB)).connect(node)
  hum.connect(gainOf(context, HUM_DB)).connect(node)
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
