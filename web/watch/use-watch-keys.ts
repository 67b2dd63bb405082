/** The keys of the watch page. */
import { type RefObject, useLayoutEffect } from 'react'
import type { Pace } from './use-pace.ts'
import type { Playback } from './use-playback.ts'

const SKIP_S = 5

interface Keys {
  playback: Playback
  /** null while it is viewed as a video. */
  pace: Pace | null
  video: RefObject<HTMLVideoElement | null>
  frame: RefObject<HTMLElement | null>
  toggleCaptions: () => void
}

export function toggleFullScreen(frame: RefObject<HTMLElement | null>) {
  void (document.fullscreenElement ? document.exitFullscreen() : frame.current?.requestFullscreen())
}

export function useWatchKeys({ playback, pace, video, frame, toggleCaptions }: Keys) {
  // before it can be seen: what is told on the page counts from then on
  useLayoutEffect(() => {
    const acts: Record<string, () => void> = {
      ' ': () => playback.toggle(),
      ArrowRight: () =>
        pace ? pace.goTo(pace.slide + 1) : playback.seek(Math.min(video.current?.duration ?? 0, playback.moment + SKIP_S)),
      ArrowLeft: () => (pace ? pace.goTo(pace.slide - 1) : playback.seek(Math.max(0, playback.moment - SKIP_S))),
      c: toggleCaptions,
      f: () => toggleFullScreen(frame),
      m: () => {
        if (video.current) video.current.muted = !video.current.muted
      },
    }
    const onKey = (event: KeyboardEvent) => {
      const { tagName } = event.target as HTMLElement
      if (event.ctrlKey || event.metaKey || event.altKey || ['INPUT', 'SELECT', 'TEXTAREA'].includes(tagName)) return
      // a button takes the space bar for itself
      if (event.key === ' ' && ['BUTTON', 'A'].includes(tagName)) return
      const act = acts[event.key]
      if (!act) return
      act()
      event.preventDefault()
    }
    window.addEventListener('keydown', onKey)
    return () => window.removeEventListener('keydown', onKey)
  })
}
