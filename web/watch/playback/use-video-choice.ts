/** Which of an edition's videos is played: the one chosen last, else a small one for a slow line or a small screen. */
import { type RefObject, useEffect, useRef, useState } from 'react'
import type { WatchedEdition } from '#web/watch/edition/edition.ts'
import { recall, remember } from '#web/watch/edition/remember.ts'

export type WatchedVideo = WatchedEdition['videos'][number]
export type VideoSize = 'large' | 'small'

const sizeOf = (video: WatchedVideo): VideoSize => (video.preset === 'small' ? 'small' : 'large')

/** What a browser may tell of its line (Network Information API, a draft that not every browser has). */
interface Line {
  saveData?: boolean
  effectiveType?: string
  /** Megabits a second. */
  downlink?: number
}
/** A line below this stops a large video now and then. */
const SLOW_MBIT = 2
const SMALL_SCREEN_PX = 1280

/** @param screen longer side, in pixels of the device */
export const fittingSize = (screen: number, line: Line | undefined): VideoSize =>
  screen <= SMALL_SCREEN_PX ||
  line?.saveData ||
  /2g|3g/.test(line?.effectiveType ?? '') ||
  (line?.downlink ?? SLOW_MBIT) < SLOW_MBIT
    ? 'small'
    : 'large'

/** @returns the videos as the browser tries them: those of the wanted size first */
export const inOrder = (videos: readonly WatchedVideo[], wanted: VideoSize): WatchedVideo[] =>
  videos.toSorted((a, b) => Number(sizeOf(b) === wanted) - Number(sizeOf(a) === wanted))

export interface VideoChoice {
  videos: WatchedVideo[]
  size: VideoSize
  /** One of each size; fewer than two leave nothing to choose. */
  offered: { size: VideoSize; video: WatchedVideo }[]
  choose(size: VideoSize): void
}

function firstSize(): VideoSize {
  const known = recall('video size')
  if (known === 'large' || known === 'small') return known
  const { connection } = navigator as Navigator & { connection?: Line }
  return fittingSize(Math.max(screen.width, screen.height) * devicePixelRatio, connection)
}

export function useVideoChoice(edition: WatchedEdition, video: RefObject<HTMLVideoElement | null>): VideoChoice {
  const [size, setSize] = useState(firstSize)
  const loaded = useRef(size)
  useEffect(() => {
    const element = video.current
    if (!element || loaded.current === size) return
    loaded.current = size
    // the other video goes on where this one was
    const [at, isPlaying] = [element.currentTime, !element.paused]
    element.load()
    element.currentTime = at
    if (isPlaying) void element.play().catch(() => {})
  }, [size, video])
  const offered = (['large', 'small'] as const).flatMap((one) => {
    const found = edition.videos.find((v) => sizeOf(v) === one)
    return found ? [{ size: one, video: found }] : []
  })
  return {
    videos: inOrder(edition.videos, size),
    size,
    offered,
    choose(wanted) {
      remember('video size', wanted)
      setSize(wanted)
    },
  }
}
