/** Plays pieces of a take one after the other, joined as a clip joins them: how a cut sounds before it is made. */
import { fromInt16 } from '#core/audio/signal/pcm.ts'
import type { SampleRange } from '#core/model/sample-range.ts'
import { SAMPLE_RATE, toSamples } from '#core/timing/clocks.ts'
import { samplesUrl } from '#web/data/api.ts'
import { stopPlay, whenSoundStarts } from './sound.ts'

/** As a clip's joins are (core/audio/render/render.ts). */
const JOIN = toSamples(0.012)

let context: AudioContext | null = null
let source: AudioBufferSourceNode | null = null
let asked = 0

export function stopPieces() {
  asked++
  source?.stop()
  source = null
}
whenSoundStarts(stopPieces)

async function samplesOf(takeId: string, { start, end }: SampleRange): Promise<Float32Array> {
  const answer = await fetch(samplesUrl(takeId, start, end))
  if (!answer.ok) throw new Error(`${answer.status}`)
  return fromInt16(new Int16Array(await answer.arrayBuffer()))
}

/** @returns both in one, the second over the end of the first for as long as a join lasts */
export function joinPieces(first: Float32Array, second: Float32Array): Float32Array<ArrayBuffer> {
  const join = Math.min(JOIN, first.length, second.length)
  const out = new Float32Array(first.length + second.length - join)
  out.set(first)
  out.set(second.subarray(join), first.length)
  for (let n = 0; n < join; n++) {
    const turn = ((n + 0.5) / join) * (Math.PI / 2)
    const at = first.length - join + n
    out[at] = first[at]! * Math.cos(turn) + second[n]! * Math.sin(turn)
  }
  return out
}

/** @param pieces of the take, samples @param gainDb how much louder than it was recorded @throws when they do not arrive */
export async function playPieces(takeId: string, pieces: readonly SampleRange[], gainDb: number): Promise<void> {
  stopPlay()
  stopPieces()
  const mine = asked
  context ??= new AudioContext({ sampleRate: SAMPLE_RATE })
  await context.resume()
  const wanted = pieces.filter(({ start, end }) => end > start)
  const sounds = await Promise.all(wanted.map((piece) => samplesOf(takeId, piece)))
  if (mine !== asked || sounds.length === 0) return
  const joined = sounds.slice(1).reduce(joinPieces, sounds[0] as Float32Array<ArrayBuffer>) as Float32Array<ArrayBuffer>
  const buffer = context.createBuffer(1, joined.length, SAMPLE_RATE)
  buffer.copyToChannel(joined, 0)
  source = new AudioBufferSourceNode(context, { buffer })
  source.connect(new GainNode(context, { gain: 10 ** (gainDb / 20) })).connect(context.destination)
  source.start()
}
