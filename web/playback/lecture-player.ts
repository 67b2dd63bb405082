/**
 * Plays a lecture as learners will hear it, without an export: clips, rests, beds, at any speed with its pitch kept.
 *
 * The clip that sounds is the clock; between clips it is the computer's. Pictures and captions are drawn from that one position, so
 * they cannot run away from the sound. Without React: `player.ts` has the one of the page.
 */
import { gainAt, type PlacedBed } from '#core/audio/mix/music-bed.ts'
import { slideAt } from '#core/edition/frame-at.ts'
import type { EditionPlan } from '#core/edition/plan.ts'
import { SAMPLE_RATE, toSeconds } from '#core/timing/clocks.ts'
import { type FilmDevices, FilmScreens } from './film-screens.ts'

export const RATES = [0.5, 0.75, 1, 1.25, 1.5, 2]

export interface PlayerState {
  playing: boolean
  rate: number
  /** Which slide is shown, by id; null before anything was played. */
  slideId: string | null
  /** Ends with the slide it began on. */
  onlyThisSlide: boolean
}

const TICK_MS = 15
/** A browser needs about so long from the call to the first sample; learned as it plays. */
const USUAL_LATENCY_S = 0.03
const MOST_LATENCY_S = 0.25
/** So long before its end a clip is left to itself: the news that it has ended comes late. */
const RELEASE_S = 0.03
/** More lateness than this is not made good but kept: the learner would miss the rest after the clip. */
const MOST_MADE_GOOD_S = 0.3

interface Sounding {
  slide: number
  element: HTMLAudioElement
  /** Lecture seconds of the clip's first sample. */
  start: number
  end: number
  /** Where in the clip it began, and when it was asked to. */
  offset: number
  askedAt: number
  started: boolean
}

/** What of the browser it works with. */
export interface PlayerDevices extends FilmDevices {
  /** Address of a stored sound. */
  url(name: string): string
  audio(url: string): HTMLAudioElement
  /** Milliseconds of a clock that never goes back. */
  now(): number
  /** Ends any other sound of the page. */
  silenceOthers(): void
}

export class LecturePlayer {
  readonly #devices: PlayerDevices
  #plan: EditionPlan | null = null
  #beds: PlacedBed[] = []
  #state: PlayerState = { playing: false, rate: 1, slideId: null, onlyThisSlide: false }
  readonly #listeners = new Set<() => void>()
  #anchor = { position: 0, time: 0 }
  /** Where the lecture would be had every clip begun at once: what clips are late by is made good in the rest after them. */
  #wall = { position: 0, time: 0 }
  #sounding: Sounding | null = null
  #prepared: { url: string; element: HTMLAudioElement } | null = null
  #timer: ReturnType<typeof setInterval> | undefined
  #latency = USUAL_LATENCY_S
  #stopAt = Number.POSITIVE_INFINITY
  #context: AudioContext | null = null
  readonly #bedElements = new Map<string, { element: HTMLAudioElement; gain: GainNode }>()
  #isWoken = false

  /** What the films of the lecture are shown by. */
  readonly films: FilmScreens

  constructor(devices: PlayerDevices) {
    this.#devices = devices
    this.films = new FilmScreens(devices)
  }

  /** Calls back when the state changed or the lecture was moved. @returns a function that ends listening */
  readonly subscribe = (listener: () => void): (() => void) => {
    this.#listeners.add(listener)
    return () => void this.#listeners.delete(listener)
  }

  readonly state = (): PlayerState => this.#state

  #change(values: Partial<PlayerState>) {
    if (Object.entries(values).every(([key, value]) => this.#state[key as keyof PlayerState] === value)) return
    this.#state = { ...this.#state, ...values }
    this.#tell()
  }

  #tell() {
    for (const listener of this.#listeners) listener()
  }

  #end() {
    return this.#plan ? toSeconds(this.#plan.lengthSamples) : 0
  }

  #clipOf(index: number) {
    const slide = this.#plan?.slides[index]
    if (!slide?.sound) return null
    const start = toSeconds(slide.startSamples + slide.sound.atSamples)
    return { url: this.#devices.url(slide.sound.clip), start, end: start + toSeconds(slide.sound.samples) }
  }

  #wallPosition() {
    return this.#wall.position + ((this.#devices.now() - this.#wall.time) / 1000) * this.#state.rate
  }

  /** @returns seconds since the lecture started */
  position(): number {
    const free =
      this.#anchor.position + (this.#state.playing ? ((this.#devices.now() - this.#anchor.time) / 1000) * this.#state.rate : 0)
    if (!this.#sounding) return Math.min(free, this.#end())
    if (!this.#sounding.started) return Math.min(free, this.#sounding.start + this.#sounding.offset)
    return Math.min(this.#sounding.start + this.#sounding.element.currentTime, this.#sounding.end)
  }

  #anchorAt(moment: number) {
    this.#anchor = { position: moment, time: this.#devices.now() }
    if (!this.#state.playing) this.films.place(moment, 0)
    this.#tell()
  }

  #silenceClip() {
    this.#sounding?.element.pause()
    this.#sounding = null
  }

  /** From here the computer's clock goes on: as the schedule has it, unless the clip was held up for long. */
  #release(clip: Sounding) {
    const late = this.#wallPosition() - this.position()
    if (late >= -0.02 && late < MOST_MADE_GOOD_S) this.#anchor = { ...this.#wall }
    else {
      this.#anchorAt(Math.max(this.position(), clip.end - RELEASE_S))
      this.#wall = { ...this.#anchor }
    }
    // its last few samples sound on by themselves
    this.#sounding = null
  }

  /** @param offset seconds of the clip from which it will be played */
  #prepare(index: number, offset = 0) {
    const clip = this.#clipOf(index)
    if (!clip) return
    if (this.#prepared?.url !== clip.url) {
      const element = this.#devices.audio(clip.url)
      element.preload = 'auto'
      this.#prepared = { url: clip.url, element }
    }
    // going there takes a while where the file has not been read yet: it is done before it is wanted
    if (Math.abs(this.#prepared.element.currentTime - offset) > 0.001) this.#prepared.element.currentTime = offset
  }

  #startClip(index: number, at: number) {
    const clip = this.#clipOf(index)!
    const offset = Math.max(0, at - clip.start)
    this.#prepare(index, offset)
    const { element } = this.#prepared!
    this.#prepared = null
    element.playbackRate = this.#state.rate
    element.preservesPitch = true
    this.#sounding = {
      slide: index,
      element,
      start: clip.start,
      end: clip.end,
      offset,
      askedAt: this.#devices.now(),
      started: false,
    }
    const own = this.#sounding
    element.play().catch(() => {
      // a clip that cannot be played is passed over in silence, and the lecture goes on
      if (this.#sounding !== own) return
      this.#anchorAt(own.start + own.offset)
      this.#sounding = null
    })
  }

  #bedElement(bed: PlacedBed) {
    const known = this.#bedElements.get(bed.bedId)
    if (known?.element.src.endsWith(this.#devices.url(bed.sound))) return known
    known?.element.pause()
    this.#context ??= this.#devices.context()
    const element = this.#devices.audio(this.#devices.url(bed.sound))
    const gain = this.#context.createGain()
    this.#context.createMediaElementSource(element).connect(gain).connect(this.#context.destination)
    const made = { element, gain }
    this.#bedElements.set(bed.bedId, made)
    return made
  }

  /** Brings every bed to where it has to be, and writes its gain ahead. */
  #placeBeds() {
    const now = this.position()
    for (const bed of this.#beds) {
      const [from, to] = [toSeconds(bed.start), toSeconds(bed.end)]
      if (now < from || now >= to) {
        this.#bedElements.get(bed.bedId)?.element.pause()
        continue
      }
      const { element, gain } = this.#bedElement(bed)
      void this.#context!.resume()
      const played = now - from
      const wanted = bed.loopSamples ? played % toSeconds(bed.loopSamples) : played
      element.loop = bed.loopSamples !== null
      element.playbackRate = this.#state.rate
      if (element.paused || Math.abs(element.currentTime - wanted) > 0.15) element.currentTime = wanted
      const at = this.#context!.currentTime
      gain.gain.cancelScheduledValues(0)
      gain.gain.setValueAtTime(gainAt(bed.gains, now * SAMPLE_RATE), at)
      for (const point of bed.gains) {
        const moment = toSeconds(point.at)
        if (moment > now) gain.gain.linearRampToValueAtTime(point.gain, at + (moment - now) / this.#state.rate)
      }
      if (element.paused) void element.play().catch(() => {})
    }
  }

  #tick() {
    if (!this.#plan || !this.#state.playing) return
    if (this.#sounding && !this.#sounding.started && this.#sounding.element.currentTime > this.#sounding.offset) {
      const heard = this.#sounding.element.currentTime - this.#sounding.offset
      const took = ((this.#devices.now() - this.#sounding.askedAt) / 1000) * this.#state.rate - heard
      this.#latency = Math.min(MOST_LATENCY_S, Math.max(0, 0.6 * this.#latency + 0.4 * took))
      this.#sounding.started = true
    }
    if (this.#sounding && (this.#sounding.element.ended || this.position() >= this.#sounding.end - RELEASE_S))
      this.#release(this.#sounding)
    const now = this.position()
    if (now >= Math.min(this.#end(), this.#stopAt)) {
      this.pause()
      this.#anchorAt(Math.min(this.#end(), this.#stopAt))
      return
    }
    const index = slideAt(this.#plan, Math.round(now * SAMPLE_RATE))
    if (this.#plan.slides[index]!.slideId !== this.#state.slideId) {
      this.#change({ slideId: this.#plan.slides[index]!.slideId })
      this.#placeBeds()
    } else if (
      this.#beds.some(
        (bed) => Math.abs(now - toSeconds(bed.start)) < 0.05 && this.#bedElements.get(bed.bedId)?.element.paused !== false,
      )
    )
      this.#placeBeds()
    this.films.place(now, this.#state.rate)
    const clip = this.#clipOf(index)
    if (!this.#sounding && clip && now >= clip.start - this.#latency * this.#state.rate && now < clip.end - 2 * RELEASE_S)
      this.#startClip(index, now)
    else if (this.#sounding) this.#prepare(this.#sounding.slide + 1)
  }

  /** @param from lecture seconds; where it stands when absent, from the start when that is the end */
  play(from?: number, options: { onlyThisSlide?: boolean } = {}) {
    if (!this.#plan) return
    this.#devices.silenceOthers()
    this.#silenceClip()
    const here = from ?? this.position()
    const start = here >= this.#end() - 0.05 ? 0 : Math.max(0, here)
    const slide = this.#plan.slides[slideAt(this.#plan, Math.round(start * SAMPLE_RATE))]!
    const onlyThisSlide = options.onlyThisSlide ?? false
    this.#stopAt = onlyThisSlide ? toSeconds(slide.startSamples + slide.lengthSamples) : Number.POSITIVE_INFINITY
    this.films.pause()
    this.#anchorAt(start)
    this.#wall = { ...this.#anchor }
    this.#change({ playing: true, slideId: slide.slideId, onlyThisSlide })
    clearInterval(this.#timer)
    this.#timer = setInterval(() => this.#tick(), TICK_MS)
    this.#placeBeds()
    this.#tick()
  }

  pause() {
    const now = this.position()
    clearInterval(this.#timer)
    this.#silenceClip()
    for (const { element } of this.#bedElements.values()) element.pause()
    this.films.pause()
    this.#change({ playing: false })
    this.#anchorAt(now)
  }

  seek(moment: number) {
    const to = Math.min(Math.max(0, moment), this.#end())
    if (this.#state.playing) return this.play(to)
    this.#anchorAt(to)
    if (!this.#plan?.slides.length) return
    const index = slideAt(this.#plan, Math.round(to * SAMPLE_RATE))
    this.#change({ slideId: this.#plan.slides[index]!.slideId })
    const clip = this.#clipOf(index)
    if (clip && to < clip.end) this.#prepare(index, Math.max(0, to - clip.start))
  }

  setRate(rate: number) {
    const now = this.position()
    this.#change({ rate })
    if (this.#state.playing) this.play(now, { onlyThisSlide: this.#state.onlyThisSlide })
  }

  /** The first sound of a page waits for the browser's decoder and loudspeaker: they are woken unheard, before somebody presses play. */
  #wake() {
    if (this.#isWoken || !this.#plan) return
    const index = this.#plan.slides.findIndex((slide) => slide.sound)
    if (index < 0) return
    this.#isWoken = true
    const element = this.#devices.audio(this.#clipOf(index)!.url)
    element.muted = true
    element.play().then(
      () => element.pause(),
      () => {},
    )
  }

  /** Takes up another state of the lecture; what plays goes on where it is. */
  load(next: EditionPlan | null, nextBeds: PlacedBed[]) {
    const now = this.position()
    const slideId = this.#state.slideId
    const within =
      this.#plan && slideId ? now - toSeconds(this.#plan.slides.find((s) => s.slideId === slideId)?.startSamples ?? 0) : now
    const before = this.#plan?.slides.find((s) => s.slideId === slideId)
    this.#plan = next
    this.#beds = nextBeds.filter((bed) => !bed.isFilm)
    this.films.load(next, nextBeds)
    if (!next) return this.pause()
    this.#wake()
    const same = next.slides.find((s) => s.slideId === slideId)
    // an edit elsewhere moves the slide on the lecture's clock; the listener stays where they were on it
    const moved = same ? toSeconds(same.startSamples) + Math.min(within, toSeconds(same.lengthSamples)) : now
    if (this.#state.playing && JSON.stringify(before?.sound) !== JSON.stringify(same?.sound)) this.play(moved)
    else if (this.#sounding && same) {
      const clip = this.#clipOf(next.slides.indexOf(same))
      this.#sounding = clip
        ? { ...this.#sounding, slide: next.slides.indexOf(same), start: clip.start, end: clip.end }
        : this.#sounding
    } else this.#anchorAt(Math.min(moved, this.#end()))
  }

  unload() {
    this.pause()
    this.#plan = null
    this.#beds = []
    for (const { element } of this.#bedElements.values()) element.pause()
    this.#bedElements.clear()
    this.films.close()
    void this.#context?.close()
    this.#context = null
    this.#prepared = null
    this.#anchorAt(0)
    this.#change({ slideId: null, onlyThisSlide: false })
  }
}
