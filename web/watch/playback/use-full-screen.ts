/** Full screen with everything in it: picture, captions, controls, which hide when nobody moves. */
import { type RefObject, useCallback, useEffect, useState } from 'react'

/** Common practice, no published source: controls go some seconds after the last movement. */
const IDLE_MS = 3000

/** What browsers without full screen for elements have for videos. */
type OlderVideo = HTMLVideoElement & { webkitEnterFullscreen?: () => void }

export interface FullScreen {
  isFull: boolean
  /** Nobody has moved, touched or pressed anything for a while. */
  isIdle: boolean
  toggle(): void
}

export function useFullScreen(frame: RefObject<HTMLElement | null>, video: RefObject<HTMLVideoElement | null>): FullScreen {
  const [isFull, setFull] = useState(false)
  const [isIdle, setIdle] = useState(false)
  useEffect(() => {
    const told = () => setFull(document.fullscreenElement !== null && document.fullscreenElement === frame.current)
    document.addEventListener('fullscreenchange', told)
    return () => document.removeEventListener('fullscreenchange', told)
  }, [frame])
  useEffect(() => {
    setIdle(false)
    const element = frame.current
    if (!isFull || !element) return
    let timer: ReturnType<typeof setTimeout>
    const moved = () => {
      setIdle(false)
      clearTimeout(timer)
      timer = setTimeout(() => setIdle(true), IDLE_MS)
    }
    moved()
    const events = ['pointermove', 'pointerdown', 'keydown', 'focusin'] as const
    for (const event of events) element.addEventListener(event, moved)
    // keys reach the page wherever focus is
    window.addEventListener('keydown', moved)
    return () => {
      clearTimeout(timer)
      for (const event of events) element.removeEventListener(event, moved)
      window.removeEventListener('keydown', moved)
    }
  }, [isFull, frame])
  const toggle = useCallback(() => {
    if (document.fullscreenElement) void document.exitFullscreen()
    else if (frame.current?.requestFullscreen) void frame.current.requestFullscreen()
    // the video alone, with the browser's controls and the captions as its text track
    else (video.current as OlderVideo | null)?.webkitEnterFullscreen?.()
  }, [frame, video])
  return { isFull, isIdle, toggle }
}
