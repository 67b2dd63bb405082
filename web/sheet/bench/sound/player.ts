/** Plays a take as recorded or tidied, and changes between the two at the same spot at once. Moments are seconds of the take. */
import { slideSeconds, takeSeconds } from '#core/timing/clocks.ts'
import { type Removal, timeMap } from '#core/timing/time-map.ts'
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

export interface TakePlayer {
  /** Called as the moment moves, and when playing begins or ends. */
  onChange: (state: { moment: number; playing: boolean }) => void
  play(from: number, loop?: { start: number; end: number } | null): void
  pause(): void
  seek(moment: number): void
  hear(what: Heard): void
  setEqual(equal: boolean): void
  moment(): number
  close(): void
}

export function takePlayer(sources: TakeSources, first: Heard): TakePlayer {
  const map = timeMap(sources.removal, 0)
  const elements: Record<Heard, HTMLAudioElement | null> = {
    recorded: new Audio(sources.recorded),
    tidied: sources.tidied ? new Audio(sources.tidied) : null,
  }
  // both are ready before they are wanted, so that a change is heard at once
  for (const element of Object.values(elements)) if (element) element.preload = 'auto'
  let heard: Heard = elements[first] ? first : 'recorded'
  let looped: { start: number; end: number } | null = null
  let playing = false
  let at = 0
  let waiting = 0

  const element = () => elements[heard]!
  /** Where a moment of the take is heard; a removed one at the next that is kept. */
  const toElement = (moment: number) => {
    if (heard === 'recorded') return moment
    for (let m = moment; m < moment + 120; m += 0.02) {
      const there = map.toSlide(takeSeconds(m))
      if (there !== null) return there
    }
    return 0
  }
  const fromElement = (seconds: number) =>
    heard === 'recorded' ? seconds : (map.toTake(slideSeconds(seconds)) ?? sources.removal.kept.end / 48_000)

  const player: TakePlayer = {
    onChange: () => {},
    play(from, loop = null) {
      stopPlay()
      stopPreview()
      looped = loop
      at = from
      element().currentTime = toElement(from)
      playing = true
      void element()
        .play()
        .catch(() => player.pause())
      cancelAnimationFrame(waiting)
      waiting = requestAnimationFrame(look)
      player.onChange({ moment: at, playing })
    },
    pause() {
      if (playing) at = fromElement(element().currentTime)
      element().pause()
      playing = false
      cancelAnimationFrame(waiting)
      player.onChange({ moment: at, playing })
    },
    seek(moment) {
      at = moment
      element().currentTime = toElement(moment)
      player.onChange({ moment, playing })
    },
    hear(what) {
      if (what === heard || !elements[what]) return
      if (playing) at = fromElement(element().currentTime)
      element().pause()
      heard = what
      element().currentTime = toElement(at)
      if (playing) void element().play()
    },
    setEqual(equal) {
      const { recorded, tidied } = sources.loudness
      const louder = equal && recorded !== null && tidied !== null ? tidied - recorded : 0
      // the louder one is turned down: a media element cannot be turned up
      if (elements.recorded) elements.recorded.volume = 10 ** (Math.min(0, louder) / 20)
      if (elements.tidied) elements.tidied.volume = 10 ** (Math.min(0, -louder) / 20)
    },
    moment: () => (playing ? fromElement(element().currentTime) : at),
    close() {
      cancelAnimationFrame(waiting)
      if (playing) at = fromElement(element().currentTime)
      playing = false
      for (const each of Object.values(elements)) {
        each?.pause()
        each?.removeAttribute('src')
      }
    },
  }
  function look() {
    if (!playing) return
    at = fromElement(element().currentTime)
    if (looped && at >= looped.end) element().currentTime = toElement(looped.start)
    else if (element().ended) {
      if (looped) return player.play(looped.start, looped)
      return player.pause()
    }
    player.onChange({ moment: at, playing })
    waiting = requestAnimationFrame(look)
  }
  return player
}
