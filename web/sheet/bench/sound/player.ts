/** Plays a take as recorded or tidied, and changes between the two at the same spot at once. Moments are seconds of the take. */
import { slideSeconds, takeSeconds, toSeconds } from '#core/timing/clocks.ts'
import { type Removal, type TimeMap, timeMap } from '#core/timing/time-map.ts'
import { stopPlay } from '#web/playback/sound.ts'
import { stopPreview } from './preview.ts'

export type Heard = 'recorded' | 'tidied'

export interface TakeSources {
  recorded: string
  /** null while there is no clip. */
  tidied: string | null
  removal: Removal
  /** Loudness of both, LUFS, for hearing them equally loud; null when unknown. */
  loudness: { recorded: number | null; tidied: number | null }
}

export class TakePlayer {
  /** Called as the moment moves, and when playing begins or ends. */
  onChange: (state: { moment: number; playing: boolean }) => void = () => {}
  readonly #sources: TakeSources
  readonly #map: TimeMap
  readonly #elements: Record<Heard, HTMLAudioElement | null>
  #heard: Heard
  #looped: { start: number; end: number } | null = null
  #isPlaying = false
  #at = 0
  #frame = 0

  constructor(sources: TakeSources, first: Heard) {
    this.#sources = sources
    this.#map = timeMap(sources.removal, 0)
    this.#elements = {
      recorded: new Audio(sources.recorded),
      tidied: sources.tidied ? new Audio(sources.tidied) : null,
    }
    // both are ready before they are wanted, so that a change is heard at once
    for (const element of Object.values(this.#elements)) if (element) element.preload = 'auto'
    this.#heard = this.#elements[first] ? first : 'recorded'
  }

  play(from: number, loop: { start: number; end: number } | null = null) {
    stopPlay()
    stopPreview()
    this.#looped = loop
    this.#at = from
    this.#element.currentTime = this.#toElement(from)
    this.#isPlaying = true
    void this.#element.play().catch(() => this.pause())
    cancelAnimationFrame(this.#frame)
    this.#frame = requestAnimationFrame(this.#look)
    this.#tell()
  }

  pause() {
    this.#at = this.moment()
    this.#element.pause()
    this.#isPlaying = false
    cancelAnimationFrame(this.#frame)
    this.#tell()
  }

  seek(moment: number) {
    this.#at = moment
    this.#element.currentTime = this.#toElement(moment)
    this.#tell()
  }

  hear(what: Heard) {
    if (what === this.#heard || !this.#elements[what]) return
    this.#at = this.moment()
    this.#element.pause()
    this.#heard = what
    this.#element.currentTime = this.#toElement(this.#at)
    if (this.#isPlaying) void this.#element.play()
  }

  setEqual(equal: boolean) {
    const { recorded, tidied } = this.#sources.loudness
    const louder = equal && recorded !== null && tidied !== null ? tidied - recorded : 0
    // the louder one is turned down: a media element cannot be turned up
    if (this.#elements.recorded) this.#elements.recorded.volume = 10 ** (Math.min(0, louder) / 20)
    if (this.#elements.tidied) this.#elements.tidied.volume = 10 ** (Math.min(0, -louder) / 20)
  }

  moment(): number {
    return this.#isPlaying ? this.#fromElement(this.#element.currentTime) : this.#at
  }

  close() {
    cancelAnimationFrame(this.#frame)
    this.#at = this.moment()
    this.#isPlaying = false
    for (const element of Object.values(this.#elements)) {
      element?.pause()
      element?.removeAttribute('src')
    }
  }

  get #element(): HTMLAudioElement {
    return this.#elements[this.#heard]!
  }

  #tell() {
    this.onChange({ moment: this.#at, playing: this.#isPlaying })
  }

  readonly #look = () => {
    if (!this.#isPlaying) return
    this.#at = this.moment()
    const looped = this.#looped
    if (looped && this.#at >= looped.end) this.#element.currentTime = this.#toElement(looped.start)
    else if (this.#element.ended) return looped ? this.play(looped.start, looped) : this.pause()
    this.#tell()
    this.#frame = requestAnimationFrame(this.#look)
  }

  /** Where a moment of the take is heard; a removed one at the next that is kept. */
  #toElement(moment: number): number {
    if (this.#heard === 'recorded') return moment
    for (let m = moment; m < moment + 120; m += 0.02) {
      const there = this.#map.toSlide(takeSeconds(m))
      if (there !== null) return there
    }
    return 0
  }

  #fromElement(seconds: number): number {
    if (this.#heard === 'recorded') return seconds
    return this.#map.toTake(slideSeconds(seconds)) ?? toSeconds(this.#sources.removal.kept.end)
  }
}
