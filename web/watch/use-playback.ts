/** The video as the page plays it: whether it plays, where it is, and whether the browser let it begin. */
import { type RefObject, useCallback, useEffect, useRef, useState } from 'react'

export interface Playback {
  playing: boolean
  /** Seconds of the lecture, as often as the screen is drawn. */
  moment: number
  /** Playing was asked for and the browser did not allow it: a press on the page will. */
  blocked: boolean
  play(): void
  pause(): void
  toggle(): void
  seek(seconds: number): void
}

/** Where a slide begins the frame before it may still be shown: this much later it is certainly the new one. */
const INSIDE_S = 0.002

export function usePlayback(video: RefObject<HTMLVideoElement | null>, onBegin: () => void): Playback {
  const [moment, setMoment] = useState(0)
  const [playing, setPlaying] = useState(false)
  const [blocked, setBlocked] = useState(false)
  const begun = useRef(false)
  useEffect(() => {
    const element = video.current
    if (!element) return
    const told = () => {
      setPlaying(!element.paused && !element.ended)
      if (element.paused) return
      setBlocked(false)
      if (!begun.current) onBegin()
      begun.current = true
    }
    const at = () => setMoment(element.currentTime)
    for (const event of ['play', 'pause', 'ended']) element.addEventListener(event, told)
    // a page that is not seen is not drawn, but the clock goes on
    for (const event of ['timeupdate', 'seeked']) element.addEventListener(event, at)
    let waiting = requestAnimationFrame(function look() {
      at()
      waiting = requestAnimationFrame(look)
    })
    return () => {
      cancelAnimationFrame(waiting)
      for (const event of ['play', 'pause', 'ended']) element.removeEventListener(event, told)
      for (const event of ['timeupdate', 'seeked']) element.removeEventListener(event, at)
    }
  }, [video, onBegin])
  const play = useCallback(() => {
    video.current?.play().catch((error: DOMException) => {
      // an interrupted start is followed by the one that interrupted it
      if (error.name === 'NotAllowedError') setBlocked(true)
    })
  }, [video])
  const pause = useCallback(() => video.current?.pause(), [video])
  const toggle = useCallback(() => (video.current?.paused ? play() : pause()), [video, play, pause])
  const seek = useCallback(
    (seconds: number) => {
      if (video.current) video.current.currentTime = seconds + INSIDE_S
      setMoment(seconds + INSIDE_S)
    },
    [video],
  )
  return { playing, moment, blocked, play, pause, toggle, seek }
}
