/** Slide by slide, at the learner's own pace: the video stops where a slide ends and waits. There is one player, so no two sounds can be heard at once. */
import { type RefObject, useCallback, useEffect, useState } from 'react'
import { toSeconds } from '#core/timing/clocks.ts'
import { chapterAt, chapterEnd, type WatchedEdition } from '#web/watch/edition/edition.ts'
import type { Playback } from '#web/watch/playback/use-playback.ts'

/** It stops so long before the slide's end: inside its rest, and before the next picture. */
const STOP_BEFORE_S = 0.12

/** A player may stand so much before the moment that it was sent to. */
const ROUNDING_S = 0.01

export interface Pace {
  slide: number
  /** Seconds of the lecture at which the slide begins, and at which it stops and waits. */
  start: number
  stop: number
  /** All of the slide was heard: it waits for the learner. */
  waits: boolean
  /** To a slide, from its beginning; what is playing stops first. */
  goTo(slide: number): void
}

/** @param on whether the learner has chosen this way of viewing */
export function usePace(
  on: boolean,
  video: RefObject<HTMLVideoElement | null>,
  edition: WatchedEdition,
  { moment, playing, pause, play, seek }: Playback,
): Pace {
  const [slide, setSlide] = useState(0)
  const stop = chapterEnd(edition.chapters[slide]!) - STOP_BEFORE_S
  // only a seek goes to another slide: playing on never does
  useEffect(() => {
    const element = video.current
    if (!on || !element) return
    const sought = () => setSlide(chapterAt(edition.chapters, element.currentTime))
    sought()
    element.addEventListener('seeking', sought)
    return () => element.removeEventListener('seeking', sought)
  }, [on, video, edition])
  // biome-ignore lint/correctness/useExhaustiveDependencies: each drawn moment is a look as well
  useEffect(() => {
    const element = video.current
    if (!on || !element || !playing) return
    const look = () => {
      if (element.seeking || element.currentTime < stop) return
      pause()
      // a busy machine may look late: the picture goes back to the slide it belongs to
      if (element.currentTime > stop + STOP_BEFORE_S / 2) seek(stop)
    }
    look()
    // the timer comes when it is due, whether or not anything is drawn
    const timer = setTimeout(look, Math.max(0, (stop - element.currentTime) * 1000) / element.playbackRate)
    return () => clearTimeout(timer)
  }, [on, video, playing, moment, stop, pause, seek])
  const goTo = useCallback(
    (wanted: number) => {
      const chapter = edition.chapters[Math.min(Math.max(wanted, 0), edition.chapters.length - 1)]!
      pause()
      seek(toSeconds(chapter.startSamples))
      play()
    },
    [edition, pause, play, seek],
  )
  // told by where it stands, not by how it came there: going back to the stop is a seek like any other
  const start = toSeconds(edition.chapters[slide]!.startSamples)
  return { slide, start, stop, waits: on && !playing && moment >= stop - ROUNDING_S, goTo }
}
