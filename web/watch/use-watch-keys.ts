/** The keys of the watch page. */
import type { RefObject } from 'react'
import { usePageKeys } from '#web/components/use-page-keys.ts'
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
  usePageKeys({
    space: () => playback.toggle(),
    arrowright: () =>
      pace ? pace.goTo(pace.slide + 1) : playback.seek(Math.min(video.current?.duration ?? 0, playback.moment + SKIP_S)),
    arrowleft: () => (pace ? pace.goTo(pace.slide - 1) : playback.seek(Math.max(0, playback.moment - SKIP_S))),
    c: toggleCaptions,
    f: () => toggleFullScreen(frame),
    m: () => {
      if (video.current) video.current.muted = !video.current.muted
    },
  })
}
