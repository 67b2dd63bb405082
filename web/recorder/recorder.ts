/** From an open microphone to chunks that are kept: one second each, 16-bit, 48 kHz, mono. */

import { fromInt16, toInt16 } from '#core/audio/signal/pcm.ts'
import { writeWav } from '#core/audio/signal/wav.ts'
import { pickUpPoint, quickSpeech } from '#core/audio/speech/fast-voice-activity.ts'
import type { Mark } from '#core/model/marks.ts'
import { SAMPLE_RATE, toSamples } from '#core/timing/clocks.ts'
import { message } from '#core/words/say.ts'
import { type Capture, openCapture } from './capture/capture.ts'
import { MicrophoneProblem, NO_ANSWER, type OpenMicrophone, openMicrophone } from './input/microphones.ts'
import { keptName } from './input/practice-microphone.ts'
import { chunkStore, type KeptTake, storeWithRetry } from './kept/chunk-store.ts'
import meterUrl from './meter.worklet.ts?worker&url'
import type { FootageRecorder } from './pictures/footage-recorder.ts'
import type { LinkVoice } from './take-requests.ts'
import { type UploadReport, uploadOwn } from './upload.ts'

export interface Level {
  /** Largest sample since the last report, 0 to 1. */
  peak: number
  clipped: boolean
  /** Loudness of the last three seconds; −Infinity before anything was heard. */
  lufs: number
}

/** What is recorded: one slide's take, or from this slide straight through. */
export interface Target {
  slideId: string
  lectureId: string
  isContinuous: boolean
  /** Whose voice it is, where it goes by a link; null for the lecture's own. */
  voice: LinkVoice | null
}

/** An open microphone: its level is heard all the time, recording or not. */
export interface Input {
  readonly microphoneName: string
  onLevel: (level: Level) => void
  /** Told what is recorded as it comes: mono, 48 kHz. */
  onHeard: (samples: Float32Array) => void
  onLost: () => void
  /** @param onRefused told in a sentence of pictures that the server will never take */
  record(target: Target, onUpload: (report: UploadReport) => void, onRefused: (sentence: string) => void): Promise<Recording>
  /** Listens for a while, without keeping anything. */
  sample(seconds: number): Promise<Int16Array>
  close(): Promise<void>
}

/** A mark without its moment, which the audio thread tells. */
export type Telling =
  | { kind: 'slide'; slideId: string }
  | { kind: 'step'; stepId: string }
  | { kind: 'wrong' }
  | { kind: 'bookmark' }

export interface Recording {
  takeId: string
  /** Seconds recorded so far, without rests. */
  seconds(): number
  /**
   * Notes what was just told by a key.
   *
   * @param pressed when, as events tell it (`timeStamp`): the mark stands there, however late this is called
   */
  mark(telling: Telling, pressed: number): Promise<Mark>
  pause(): Promise<void>
  resume(): Promise<void>
  /** From now on the pictures of a screen or a camera are recorded with it. */
  film(pictures: FootageRecorder): void
  /** And from now on no more. */
  endFilming(pictures: FootageRecorder): Promise<void>
  /**
   * After a slip: goes back to the last pause before it, plays the run-up to there, and records on.
   *
   * @param onRunUp told when the run-up begins and how long it lasts
   */
  pickUp(onRunUp: (seconds: number) => void): Promise<void>
  /** Ends the recording. @returns what was recorded, ready to be listened to, before the server has sealed it */
  stop(): Promise<{ sound: Blob; seconds: number; marks: Mark[] }>
}

const CHUNK = SAMPLE_RATE
/** Heard before one records on after a slip: enough to fall into the tone again. */
const RUN_UP_S = 2
/** A slip is not noticed later than this. */
const LOOK_BACK_S = 90
/** No page is busy for longer: more is a clock that was put right meanwhile. */
const MOST_LATE_MS = 5000
/** A browser that has no room for the last pictures of a take. */
const MOST_WAIT_MS = 15_000
/** A second pick-up this soon goes further back. */
const AGAIN_S = 1.5

/** Divides samples into chunks and keeps each; a chunk that the browser cannot store stays in memory and is tried again. */
function chunker(takeId: string) {
  const all: Int16Array[] = []
  let open = new Int16Array(CHUNK)
  let filled = 0
  let chunks = 0
  let keeping: Promise<unknown> = Promise.resolve()
  const close = () => {
    if (filled === 0) return
    const pcm = open.slice(0, filled)
    all.push(pcm)
    const number = chunks++
    keeping = keeping.then(() => storeWithRetry(() => chunkStore.keepChunk(takeId, number, new Uint8Array(pcm.buffer.slice(0)))))
    open = new Int16Array(CHUNK)
    filled = 0
  }
  return {
    add(samples: Int16Array) {
      for (let at = 0; at < samples.length; ) {
        const part = samples.subarray(at, at + CHUNK - filled)
        open.set(part, filled)
        filled += part.length
        at += part.length
        if (filled === CHUNK) close()
      }
    },
    async end() {
      close()
      await keeping
      return chunks
    },
    samples: () => all.reduce((sum, c) => sum + c.length, filled),
    joined() {
      const joined = new Int16Array(all.reduce((sum, c) => sum + c.length, filled))
      let at = 0
      for (const c of all) {
        joined.set(c, at)
        at += c.length
      }
      joined.set(open.subarray(0, filled), at)
      return joined
    },
  }
}

/** Plays a sound into the headphones. */
function playSound(context: AudioContext, samples: Float32Array<ArrayBuffer>): { ended: Promise<void>; stop(): void } {
  const buffer = context.createBuffer(1, Math.max(1, samples.length), SAMPLE_RATE)
  buffer.copyToChannel(samples, 0)
  const source = new AudioBufferSourceNode(context, { buffer })
  source.connect(context.destination)
  const ended = new Promise<void>((resolve) => {
    source.onended = () => resolve()
  })
  source.start()
  return { ended, stop: () => source.stop() }
}

/** A take that is being recorded: its chunks and marks are kept as they come. */
class TakeRecording implements Recording {
  readonly takeId = crypto.randomUUID()
  readonly #context: AudioContext
  readonly #capture: Capture
  readonly #take: Omit<KeptTake, 'marks' | 'ended'>
  readonly #marks: Mark[] = []
  readonly #gathered = chunker(this.takeId)
  /** What is filmed beside it. */
  readonly #pictures = new Set<FootageRecorder>()
  #rests = false
  #isOver = false
  #runUp: { stop(): void } | null = null

  readonly #onHeard: (samples: Float32Array) => void

  constructor(
    context: AudioContext,
    capture: Capture,
    target: Target & { microphone: string },
    onHeard: (samples: Float32Array) => void,
  ) {
    this.#onHeard = onHeard
    this.#context = context
    this.#capture = capture
    this.#take = { ...target, id: this.takeId, startedAt: Date.now() }
  }

  /** @throws MicrophoneProblem where the audio thread does not answer */
  async start() {
    await this.#keep(null)
    this.#capture.onSamples = (samples, captured) => {
      this.#gathered.add(toInt16(samples))
      for (const pictures of this.#pictures) pictures.hear(captured)
      this.#onHeard(samples)
    }
    if (await this.#capture.start()) return
    await chunkStore.dropTake(this.takeId)
    throw new MicrophoneProblem(NO_ANSWER)
  }

  seconds() {
    return this.#gathered.samples() / SAMPLE_RATE
  }

  async mark(telling: Telling, pressed: number) {
    // both threads know one clock, that of the wall
    const pressedAt = Date.now() - (performance.now() - pressed)
    const { at, when } = await this.#ask('where')
    const since = Math.max(0, Math.min(MOST_LATE_MS, when - pressedAt))
    // a press that waited longer than a rest lies before it no more
    return this.#note({ ...telling, at: Math.max(this.#marks.at(-1)?.at ?? 0, at - Math.round((since / 1000) * SAMPLE_RATE)) })
  }

  film(pictures: FootageRecorder) {
    if (this.#isOver || this.#pictures.has(pictures)) return
    this.#pictures.add(pictures)
    pictures.begin(this.takeId)
    if (this.#rests) pictures.rest(this.#gathered.samples())
  }

  async endFilming(pictures: FootageRecorder) {
    if (!this.#pictures.delete(pictures)) return
    await pictures.end(this.#rests ? this.#gathered.samples() : (await this.#ask('where')).at)
  }

  async pause() {
    const { at } = await this.#rest()
    await this.#note({ kind: 'pause', at })
  }

  async resume() {
    await this.#goOn()
  }

  async pickUp(onRunUp: (seconds: number) => void) {
    const { at } = await this.#rest()
    const { from, runUp } = this.#pickUpFrom(at)
    onRunUp(runUp.length / SAMPLE_RATE)
    const playing = playSound(this.#context, runUp)
    this.#runUp = playing
    await playing.ended
    this.#runUp = null
    if (this.#isOver) return
    const { at: resumed } = await this.#goOn()
    await this.#note({ kind: 'pick-up', at: resumed, from })
    onRunUp(0)
  }

  async stop() {
    this.#isOver = true
    this.#runUp?.stop()
    const { at, dropoutCount, dropoutMs } = await this.#ask('stop')
    this.#capture.onSamples = () => {}
    // its pictures are kept to the last before the take is said to be over, for the server wants them first; but no voice waits for them for ever
    const kept = Promise.all([...this.#pictures].map((pictures) => pictures.end(at)))
    await Promise.race([kept, new Promise((resolve) => setTimeout(resolve, MOST_WAIT_MS))])
    this.#pictures.clear()
    const chunks = await this.#gathered.end()
    await this.#keep({ chunks, dropoutCount, dropoutMs })
    const sound = new Blob([writeWav(this.#gathered.joined(), SAMPLE_RATE)], { type: 'audio/wav' })
    return { sound, seconds: this.seconds(), marks: this.#marks }
  }

  /** Where one goes back to from a sample, and what is heard on the way there. */
  #pickUpFrom(at: number) {
    // who goes back again before having spoken on goes further back
    const last = this.#marks.findLast((mark) => mark.kind === 'pick-up')
    const end = last && at - last.at < toSamples(AGAIN_S) ? last.from : at
    const offset = Math.max(0, end - toSamples(LOOK_BACK_S))
    const samples = fromInt16(this.#gathered.joined().subarray(offset, end))
    const heard = quickSpeech(samples).map((s) => ({ start: s.start + offset, end: s.end + offset }))
    // a slip that was cut already is not gone back to
    const said = heard.filter((s) => !this.#marks.some((m) => m.kind === 'pick-up' && s.start >= m.from && s.end <= m.at))
    const from = Math.max(offset, pickUpPoint(said))
    return { from, runUp: samples.slice(Math.max(0, from - offset - toSamples(RUN_UP_S)), from - offset) }
  }

  async #rest() {
    const answer = await this.#ask('pause')
    this.#rests = true
    for (const pictures of this.#pictures) pictures.rest(answer.at)
    return answer
  }

  async #goOn() {
    const answer = await this.#ask('resume')
    this.#rests = false
    for (const pictures of this.#pictures) pictures.goOn()
    return answer
  }

  /** A thread that is gone does not answer: what it gave is what there is. */
  async #ask(what: Parameters<Capture['ask']>[0]) {
    const answer = await this.#capture.ask(what)
    return answer ?? { at: this.#gathered.samples(), when: Date.now(), dropoutCount: 0, dropoutMs: 0 }
  }

  async #note(mark: Mark): Promise<Mark> {
    // what is told after the end is about nothing
    if (this.#isOver) return mark
    this.#marks.push(mark)
    await this.#keep(null)
    return mark
  }

  #keep(ended: KeptTake['ended']) {
    return chunkStore.keepTake({ ...this.#take, marks: this.#marks, ended })
  }
}

/**
 * Opens a microphone.
 *
 * @throws MicrophoneProblem
 */
export async function openInput(microphone: { id: string; name: string }): Promise<Input> {
  const context = new AudioContext({ sampleRate: SAMPLE_RATE })
  let source: OpenMicrophone | null = null
  let capture: Capture
  try {
    await context.audioWorklet.addModule(meterUrl)
    source = await openMicrophone(context, microphone.id)
    await context.resume()
    capture = await openCapture(context, source)
  } catch (error) {
    source?.close()
    await context.close()
    throw error instanceof MicrophoneProblem
      ? error
      : new MicrophoneProblem(message('This browser cannot record here. Use a current browser, at localhost or over https.'))
  }
  const opened = source
  const meter = new AudioWorkletNode(context, 'meter', { numberOfOutputs: 0, channelCount: 1, channelCountMode: 'explicit' })
  opened.node.connect(meter)
  meter.port.onmessage = ({ data }: { data: Level }) => input.onLevel(data)

  const input: Input = {
    microphoneName: microphone.name,
    onLevel: () => {},
    onHeard: () => {},
    onLost: () => {},
    async record(target, onUpload, onRefused) {
      const recording = new TakeRecording(context, capture, { ...target, microphone: keptName(microphone) }, (samples) =>
        input.onHeard(samples),
      )
      await recording.start()
      opened.onRecord()
      void uploadOwn(recording.takeId, onUpload, onRefused)
      return recording
    },
    async sample(seconds) {
      const heard = new Int16Array(Math.round(seconds * SAMPLE_RATE))
      let filled = 0
      opened.onRecord()
      await new Promise<void>((resolve) => {
        capture.onSamples = (samples) => {
          const part = toInt16(samples).subarray(0, heard.length - filled)
          heard.set(part, filled)
          filled += part.length
          if (filled === heard.length) resolve()
        }
        void capture.start()
        // an input that fell silent must not keep anybody waiting
        setTimeout(resolve, seconds * 1000 + 3000)
      })
      capture.onSamples = () => {}
      await capture.ask('stop')
      return heard.subarray(0, filled)
    },
    async close() {
      meter.port.postMessage('stop')
      capture.close()
      opened.close()
      await context.close()
    },
  }
  opened.onLost(() => input.onLost())
  return input
}
