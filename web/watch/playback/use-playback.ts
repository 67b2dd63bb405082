/** The video as the page plays it: whether it plays, where it is, and whether the browser let it begin. */
import { type RefObject, useCallback, useEffect, useRef, useState } from 'react'

export interface Playback {
  playing: boolean
  /** Seconds of the lecture; while it plays, as often as the screen is drawn. */
  moment: number
  /** Playing was asked for and the browser did not allow it: a press on the page will. */
  blocked: boolean
  /** It should play and has nothing to show: the line is slow. */
  waiting: boolean
  /** The video cannot be had. */
  failed: boolean
  /** Loads the video anew, at the same moment. */
  again(): void
  play(): void
  pause(): void
  toggle(): void
  seek(seconds: number): void
}

/** Where a slide begins the frame before it may still be shown: this much later it is certainly the new one. */
const INSIDE_S = 0.002

/** A hiccup this short is not worth a word. */
const PATIENCE_MS = 600

/** Whether what is to be played comes. */
function useLine(video: RefObject<HTMLVideoElement | null>) {
  const [waiting, setWaiting] = useState(false)
  const [failed, setFailed] = useState(false)
  useEffect(() => {
    const element = video.current
    if (!element) return
    let patience: ReturnType<typeof setTimeout> | undefined
    const waits = () => {
      clearTimeout(patience)
      patience = setTimeout(() => setWaiting(!element.paused && element.readyState < element.HAVE_FUTURE_DATA), PATIENCE_MS)
    }
    const goesOn = () => {
      clearTimeout(patience)
      setWaiting(false)
      setFailed(false)
    }
    const fails = () => {
      clearTimeout(patience)
      setWaiting(false)
      setFailed(true)
    }
    // where there are several videos, the last of them tells that none can be had; what sources tell does not bubble
    const sourceFails = ({ target }: Event) => {
      if (target === element.querySelector('source:last-of-type')) fails()
    }
    for (const event of ['waiting', 'stalled']) element.addEventListener(event, waits)
    for (const event of ['playing', 'canplay', 'pause']) element.addEventListener(event, goesOn)
    element.addEventListener('error', fails)
    element.addEventListener('error', sourceFails, true)
    return () => {
      clearTimeout(patience)
      for (const event of ['waiting', 'stalled']) element.removeEventListener(event, waits)
      for (const event of ['playing', 'canplay', 'pause']) element.removeEventListener(event, goesOn)
      element.removeEventListener('error', fails)
      element.removeEventListener('error', sourceFails, true)
    }
  }, [video])
  const again = useCallback(() => {
    const element = video.current
    if (!element) return
    const at = element.currentTime
    setFailed(false)
    element.load()
    element.currentTime = at
    void element.play().catch(() => {})
  }, [video])
  return { waiting, failed, again }
}

export function usePlayback(video: RefObject<HTMLVideoElement | null>, onBegin: () => void): Playback {
  const [moment, setMoment] = useState(0)
  const [playing, setPlaying] = useState(false)
  const [blocked, setBlocked] = useState(false)
  const { waiting, failed, again } = useLine(video)
  const begun = useRef(false)
  useEffect(() => {
    const element = video.current
    if (!element) return
    let waiting = 0
    const at = () => setMoment(element.currentTime)
    const look = () => {
      at()
      waiting = requestAnimationFrame(look)
    }
    const told = () => {
      const isPlaying = !element.paused && !element.ended
      setPlaying(isPlaying)
      cancelAnimationFrame(waiting)
      if (isPlaying) look()
      else at()
      if (element.paused) return
      setBlocked(false)
      if (!begun.current) onBegin()
      begun.current = true
    }
    for (const event of ['play', 'pause', 'ended']) element.addEventListener(event, told)
    // a page that is not seen is not drawn, but the clock goes on
    for (const event of ['timeupdate', 'seeked']) element.addEventListener(event, at)
    told()
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
  return { playing, moment, blocked, waiting, failed, again, play, pause, toggle, seek }
}
