/** One session at the microphone: which input is open, what is being recorded, and where its sound is. Without React. */

import type { Mark } from '#core/model/marks.ts'
import { message, say } from '#core/words/say.ts'
import { keepFeed, type LevelFeed, type SoundFeed } from './feed.ts'
import { type Microphone, MicrophoneProblem, NONE_FOUND, preferredMicrophone } from './input/microphones.ts'
import { type PictureDevices, Pictures, type PicturesSnapshot } from './pictures/pictures.ts'
import type { Input, Recording, Telling } from './recorder.ts'
import type { LinkVoice } from './take-requests.ts'
import type { UploadReport } from './upload.ts'

export type SessionState = 'opening' | 'ready' | 'counting' | 'recording' | 'paused' | 'going back' | 'stopping' | 'no microphone'

/** While sound is being recorded or could be at the next key. */
export const isUnderWay = (state: SessionState) => state === 'recording' || state === 'paused' || state === 'going back'

export interface SessionSnapshot extends Omit<PicturesSnapshot, 'problem'> {
  /** A sentence, when screen or camera are in the way. */
  pictureProblem: string | null
  state: SessionState
  microphones: Microphone[]
  microphone: string | null
  /** Seconds left of the count-down. */
  count: number
  /** Told by keys in the recording that goes on, or in the last one. */
  marks: Mark[]
  /** Of the recording that goes on, or of the last one. */
  takeId: string | null
  /** Recording that was made straight through last, by id; null when a slide was recorded. */
  continuousTakeId: string | null
  /** Of the recording that goes on, or of the last one. */
  seconds: number
  upload: UploadReport | null
  /** Address of the last recording's sound, to be listened to at once. */
  heard: string | null
  /** A sentence, when the microphone is in the way. */
  problem: string | null
}

/** What of the browser a session works with. */
export interface SessionDevices {
  pictures: PictureDevices
  list(): Promise<Microphone[]>
  /** Asks for permission. @throws MicrophoneProblem */
  ask(): Promise<void>
  /** @throws MicrophoneProblem */
  open(microphone: Microphone): Promise<Input>
  /** The one that was chosen last time, and the choice for the next. */
  chosen(): string | null
  remember(id: string): void
  /** An address for a sound, and the end of it. */
  address(sound: Blob): string
  release(address: string): void
  /** Says what went wrong and stands in no field: of a take before the one that is shown, or of one that could not begin. */
  complain(sentence: string): void
}

const LOST = message(
  'The microphone was disconnected. What you said until then is kept. Plug it in again, or choose another one.',
)
const NO_STORAGE = message(
  'This browser cannot store what is recorded. Leave private browsing, or free some space, and try again.',
)
const TELL_TIME_MS = 100

const NOTHING_RECORDED = { seconds: 0, heard: null, upload: null, marks: [] } satisfies Partial<SessionSnapshot>

export class RecordingSession {
  readonly level: LevelFeed = keepFeed()
  readonly sound: SoundFeed = keepFeed()
  readonly #lectureId: string
  readonly #voice: LinkVoice | null
  readonly #devices: SessionDevices
  #slideId: string
  #snapshot: SessionSnapshot = {
    ...NOTHING_RECORDED,
    state: 'opening',
    microphones: [],
    microphone: null,
    count: 0,
    takeId: null,
    continuousTakeId: null,
    problem: null,
    screen: 'off',
    screenStream: null,
    cameras: [],
    camera: null,
    cameraStream: null,
    pictureProblem: null,
  }
  readonly #pictures: Pictures
  readonly #listeners = new Set<() => void>()
  #input: Input | null = null
  #recording: Recording | null = null
  /** A recording that was asked for and has not begun yet, counted in or not: until then no other one may. */
  #beginning: Promise<void> | null = null
  /** Of the recording that goes on, or of the last one. */
  #isContinuous = false
  /** Counts choices: an input that opens after another one was chosen is closed again. */
  #choices = 0
  /** Counts recordings: the one before may still be on its way when the next has begun. */
  #recordings = 0
  #clock: ReturnType<typeof setInterval> | undefined
  #endCount = (_isCancelled: boolean) => {}

  /** @param voice of who came by a link; null for the lecture's own */
  constructor(lectureId: string, slideId: string, devices: SessionDevices, voice: LinkVoice | null = null) {
    this.#lectureId = lectureId
    this.#voice = voice
    this.#slideId = slideId
    this.#devices = devices
    this.#pictures = new Pictures(devices.pictures, ({ problem, ...change }) =>
      this.#change({ ...change, ...(problem === undefined ? {} : { pictureProblem: problem }) }),
    )
  }

  /** @returns a function that ends listening */
  readonly subscribe = (listener: () => void): (() => void) => {
    this.#listeners.add(listener)
    return () => void this.#listeners.delete(listener)
  }

  readonly snapshot = (): SessionSnapshot => this.#snapshot

  /** Opens the microphone that is preferred. No camera is: nobody is asked for one. */
  readonly start = () => Promise.all([this.#open(null), this.#pictures.look()])

  /** Ends what is under way and closes the microphone. */
  readonly end = async () => {
    this.#choices++
    this.#endCount(true)
    const input = this.#input
    this.#input = null
    await this.#stop()
    await this.#pictures.close()
    await input?.close()
    this.#change({ heard: null })
  }

  /** Another slide begins with a clean clock; straight through, the clock goes on from slide to slide. */
  readonly showSlide = (slideId: string) => {
    if (slideId === this.#slideId) return
    this.#slideId = slideId
    if (this.#isContinuous && this.#recording) return
    this.#change(NOTHING_RECORDED)
  }

  readonly choose = (id: string) => {
    this.#devices.remember(id)
    void this.#open(id)
  }

  /** Shows a screen instead of the slide, or the slide again. */
  readonly toggleScreen = (isPractice = false) => this.#pictures.toggleScreen(isPractice)

  /** The slide is seen, where a screen was. */
  readonly backToSlide = () => this.#pictures.showSlide()

  readonly endScreen = () => this.#pictures.endScreen()

  readonly chooseCamera = (id: string | null) => this.#pictures.chooseCamera(id)

  /** Begins to record, after a count-down where one is wanted; ends what is under way. */
  readonly toggle = async ({ isContinuous, countdown }: { isContinuous: boolean; countdown: number }): Promise<void> => {
    const { state } = this.#snapshot
    if (state === 'counting') return this.#endCount(true)
    if (isUnderWay(state)) return this.#stop()
    if (state !== 'ready' || !this.#input || this.#beginning) return
    this.#change(NOTHING_RECORDED)
    this.#beginning = this.#begin(this.#input, isContinuous, countdown)
    await this.#beginning
    this.#beginning = null
  }

  readonly pauseOrResume = async () => {
    const recording = this.#recording
    const { state } = this.#snapshot
    if (state === 'paused') {
      await recording?.resume()
      // stopped meanwhile
      if (recording && this.#recording === recording) this.#change({ state: 'recording' })
    } else if (state === 'recording') {
      this.#change({ state: 'paused' })
      await recording?.pause()
    }
  }

  /** After a slip: back to the last pause, a run-up, and on. */
  readonly pickUp = async () => {
    const recording = this.#recording
    const { state } = this.#snapshot
    if (!recording || (state !== 'recording' && state !== 'paused')) return
    this.#change({ state: 'going back' })
    await recording.pickUp(() => {})
    // stopped meanwhile
    if (this.#recording === recording) this.#change({ state: 'recording' })
  }

  /** @param pressed when it was told, as events tell it (`timeStamp`) */
  readonly mark = async (telling: Telling, pressed: number) => {
    const mark = await this.#recording?.mark(telling, pressed)
    if (mark) this.#change({ marks: [...this.#snapshot.marks, mark] })
  }

  #change(change: Partial<SessionSnapshot>) {
    const before = this.#snapshot
    this.#snapshot = { ...before, ...change }
    if (before.heard !== null && before.heard !== this.#snapshot.heard) this.#devices.release(before.heard)
    if (isUnderWay(before.state) !== isUnderWay(this.#snapshot.state)) this.#runClock(isUnderWay(this.#snapshot.state))
    for (const listener of this.#listeners) listener()
  }

  #runClock(runs: boolean) {
    clearInterval(this.#clock)
    if (runs) this.#clock = setInterval(() => this.#change({ seconds: this.#recording?.seconds() ?? 0 }), TELL_TIME_MS)
  }

  /** Opens a microphone; the one before is closed. */
  async #open(wanted: string | null) {
    const mine = ++this.#choices
    const isStale = () => mine !== this.#choices
    this.#change({ state: 'opening', problem: null })
    const before = this.#input
    this.#input = null
    await before?.close()
    try {
      let known = await this.#devices.list()
      if (isStale()) return
      this.#change({ microphones: known })
      if (!preferredMicrophone(known, wanted ?? this.#devices.chosen())) {
        // a browser that was not asked yet may list nothing
        await this.#devices.ask()
        known = await this.#devices.list()
        if (isStale()) return
        this.#change({ microphones: known })
      }
      const preferred = preferredMicrophone(known, wanted ?? this.#devices.chosen())
      if (!preferred) throw new MicrophoneProblem(NONE_FOUND)
      this.#change({ microphone: preferred.id })
      const input = await this.#devices.open(preferred)
      if (isStale()) return void input.close()
      this.#use(input)
      const named = await this.#devices.list() // names are known once one was opened
      if (!isStale()) this.#change({ microphones: named })
    } catch (error) {
      if (!isStale()) this.#change({ problem: (error as Error).message, state: 'no microphone' })
    }
  }

  #use(input: Input) {
    this.#input = input
    input.onLevel = (level) => this.level.tell(level)
    input.onHeard = (samples) => this.sound.tell(samples)
    input.onLost = () => void this.#lose(input)
    this.#change({ state: 'ready' })
  }

  async #lose(input: Input) {
    this.#change({ problem: say(LOST) })
    this.#input = null
    // a count-down to nothing
    this.#endCount(true)
    // the audio thread hands over its last samples before it is closed
    await this.#stop()
    await input.close()
    // another one was chosen meanwhile
    if (this.#input === null && this.#snapshot.state !== 'opening') this.#change({ state: 'no microphone' })
  }

  async #isCancelled(countdown: number): Promise<boolean> {
    for (let left = countdown; left > 0; left--) {
      this.#change({ count: left, state: 'counting' })
      const isCancelled = await new Promise<boolean>((resolve) => {
        const timer = setTimeout(() => resolve(false), 1000)
        this.#endCount = (cancelled) => {
          clearTimeout(timer)
          resolve(cancelled)
        }
      })
      this.#endCount = () => {}
      if (!isCancelled) continue
      if (this.#snapshot.state === 'counting') this.#change({ state: this.#input ? 'ready' : 'no microphone' })
      return true
    }
    return false
  }

  async #begin(input: Input, isContinuous: boolean, countdown: number) {
    if (await this.#isCancelled(countdown)) return
    this.#isContinuous = isContinuous
    const mine = ++this.#recordings
    const told = (report: UploadReport) => {
      if (mine === this.#recordings) this.#change({ upload: report })
      // of a take before the one that is shown: what is refused is said all the same
      else if (report.state === 'refused') this.#devices.complain(report.problem ?? '')
    }
    try {
      const target = { slideId: this.#slideId, lectureId: this.#lectureId, isContinuous, voice: this.#voice }
      this.#recording = await input.record(target, told, this.#devices.complain)
      this.#pictures.setRecording(this.#recording)
      this.#change({ takeId: this.#recording.takeId, state: 'recording' })
    } catch (error) {
      this.#change({ state: 'ready' })
      this.#devices.complain(error instanceof MicrophoneProblem ? error.message : say(NO_STORAGE))
    }
  }

  async #stop() {
    if (this.#beginning) await this.#beginning
    const recording = this.#recording
    if (!recording) return
    this.#recording = null
    this.#change({ state: 'stopping' })
    const { sound, seconds } = await recording.stop()
    this.#pictures.setRecording(null)
    this.#change({
      continuousTakeId: this.#isContinuous ? recording.takeId : null,
      seconds,
      heard: this.#devices.address(sound),
      state: this.#input ? 'ready' : 'no microphone',
    })
  }
}
