/**
 * Films while a lecture is played: each is an element of its own, picture and sound in one, that follows the lecture's clock. Without React: the
 * stage puts the elements where they are seen.
 */
import { gainAt, type PlacedBed } from '#core/audio/mix/music-bed.ts'
import { filmsAt, type PlannedFilm, placeInFile, type ShownFrameOfFilm } from '#core/edition/films.ts'
import { slideAt } from '#core/edition/frame-at.ts'
import type { EditionPlan } from '#core/edition/plan.ts'
import { SAMPLE_RATE, toSeconds } from '#core/timing/clocks.ts'

/** Less than this nobody sees or hears. */
const NEAR_S = 0.03
/** By more than this a film jumps to where it should be; by less it is hurried, or held back. */
const JUMP_S = 0.4
/** What was recorded with the voice is cut with it, and lips are read. */
const JUMP_BESIDE_VOICE_S = 0.12
const HURRY = 0.08

export interface FilmDevices {
  /** An element that shows a film. */
  film(proxy: string): HTMLVideoElement
  /** What it shows goes over into what it shows next. */
  dissolve(element: HTMLVideoElement): void
  context(): AudioContext
}

interface Screen {
  element: HTMLVideoElement
  gain: GainNode | null
}

/** @returns seconds of the file at which a frame is seen, in the middle of it */
const momentOf = ({ film, frame }: ShownFrameOfFilm) => {
  const [count, per] = film.fileRate ?? film.rate
  return ((frame + 0.5) * per) / count
}

export class FilmScreens {
  readonly #devices: FilmDevices
  #plan: EditionPlan | null = null
  #sounds = new Map<string, PlacedBed>()
  readonly #screens = new Map<string, Screen>()
  #context: AudioContext | null = null
  /** Where the lecture stands, and how fast it goes. */
  #now = { position: 0, rate: 0 }

  constructor(devices: FilmDevices) {
    this.#devices = devices
  }

  /** @param beds of which the sounds of films count */
  load(plan: EditionPlan | null, beds: readonly PlacedBed[]) {
    this.#plan = plan
    this.#sounds = new Map(beds.filter((bed) => bed.isFilm).map((bed) => [bed.bedId, bed]))
    const known = new Map(plan?.slides.flatMap((slide) => (slide.films ?? []).map((film) => [film.filmId, film.proxy] as const)))
    this.#letGo(new Set(known.keys()))
  }

  /** Lets the elements of all films go but these. */
  #letGo(kept: ReadonlySet<string>) {
    for (const [id, { element }] of this.#screens) {
      if (kept.has(id)) continue
      element.pause()
      element.remove()
      this.#screens.delete(id)
    }
  }

  /** The element of a film; made when it is first wanted, so that nobody who only looks at the sheet loads it. */
  screen({ filmId, proxy }: Pick<PlannedFilm, 'filmId' | 'proxy'>): HTMLVideoElement {
    const known = this.#screens.get(filmId)
    if (known) return known.element
    const element = this.#devices.film(proxy)
    this.#screens.set(filmId, { element, gain: null })
    this.place(this.#now.position, this.#now.rate)
    return element
  }

  /** Brings every film to where it has to be. @param position seconds since the lecture began @param rate of playing; 0 where it stands still */
  place(position: number, rate: number) {
    this.#now = { position, rate }
    if (!this.#plan) return
    const sample = Math.max(0, Math.round(position * SAMPLE_RATE))
    const index = slideAt(this.#plan, sample)
    const slide = this.#plan.slides[index]
    if (!slide) return
    const seen = filmsAt(slide.films, sample - slide.startSamples)
    const moving = new Set(seen.filter(({ moves }) => moves && rate > 0).map(({ film }) => film.filmId))
    for (const [id, { element }] of this.#screens) if (!moving.has(id) && !element.paused) element.pause()
    for (const shown of seen) {
      if (rate > 0) this.screen(shown.film)
      const element = this.#screens.get(shown.film.filmId)?.element
      if (!element) continue
      if (moving.has(shown.film.filmId)) this.#follow(shown, position, sample - slide.startSamples, rate)
      else if (Math.abs(element.currentTime - momentOf(shown)) > 0.5 * (shown.film.rate[1] / shown.film.rate[0]))
        element.currentTime = momentOf(shown)
    }
    // the next slide's films wait in the browser's memory, and those far away are let go: there may be one on every slide
    if (rate > 0) {
      for (const film of this.#plan.slides[index + 1]?.films ?? []) this.screen(film)
      const near = this.#plan.slides.slice(Math.max(0, index - 1), index + 2).flatMap((one) => one.films ?? [])
      this.#letGo(new Set(near.map((film) => film.filmId)))
    }
  }

  /** @param at sample of the slide */
  #follow({ film }: ShownFrameOfFilm, position: number, at: number, rate: number) {
    const { element } = this.#screens.get(film.filmId)!
    const { seconds: wanted, speed } = placeInFile(film, at)
    const late = wanted - element.currentTime
    if (element.paused || Math.abs(late) > (film.runs ? JUMP_BESIDE_VOICE_S : JUMP_S)) {
      // where what was recorded with the voice was cut
      if (film.runs && !element.paused) this.#devices.dissolve(element)
      element.currentTime = wanted
      element.playbackRate = rate * speed
      this.#sound(film.filmId, element, position, rate)
      if (element.paused) void element.play().catch(() => {})
    } else element.playbackRate = rate * speed * (Math.abs(late) < NEAR_S ? 1 : 1 + Math.sign(late) * HURRY)
  }

  /** Writes a film's gain ahead. */
  #sound(id: string, element: HTMLVideoElement, position: number, rate: number) {
    const bed = this.#sounds.get(id)
    element.muted = bed === undefined
    if (!bed) return
    this.#context ??= this.#devices.context()
    const screen = this.#screens.get(id)!
    if (!screen.gain) {
      screen.gain = this.#context.createGain()
      this.#context.createMediaElementSource(element).connect(screen.gain).connect(this.#context.destination)
    }
    void this.#context.resume()
    const { gain } = screen.gain
    const now = this.#context.currentTime
    gain.cancelScheduledValues(0)
    gain.setValueAtTime(gainAt(bed.gains, position * SAMPLE_RATE), now)
    for (const point of bed.gains) {
      const moment = toSeconds(point.at)
      if (moment > position) gain.linearRampToValueAtTime(point.gain, now + (moment - position) / rate)
    }
  }

  pause() {
    for (const { element } of this.#screens.values()) element.pause()
  }

  close() {
    for (const { element } of this.#screens.values()) {
      element.pause()
      element.remove()
    }
    this.#screens.clear()
    void this.#context?.close()
    this.#context = null
    this.#plan = null
  }
}
