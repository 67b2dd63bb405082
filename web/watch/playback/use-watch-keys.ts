/** The keys of the watch page. */
import type { RefObject } from 'react'
import { usePageKeys } from '#web/components/keys/use-page-keys.ts'
import type { Pace } from '#web/watch/playback/use-pace.ts'
import type { Playback } from '#web/watch/playback/use-playback.ts'

const SKIP_S = 5

interface Keys {
  playback: Playback
  /** null while it is viewed as a video. */
  pace: Pace | null
  video: RefObject<HTMLVideoElement | null>
  toggleFullScreen: () => void
  toggleCaptions: () => void
  /** Something is asked over the picture: keys are for answering it. */
  isAsking: boolean
}

export function useWatchKeys({ playback, pace, video, toggleFullScreen, toggleCaptions, isAsking }: Keys) {
  const keys = {
    space: () => playback.toggle(),
    arrowright: () =>
      pace ? pace.goTo(pace.slide + 1) : playback.seek(Math.min(video.current?.duration ?? 0, playback.moment + SKIP_S)),
    arrowleft: () => (pace ? pace.goTo(pace.slide - 1) : playback.seek(Math.max(0, playback.moment - SKIP_S))),
    c: toggleCaptions,
    f: toggleFullScreen,
    m: () => {
      if (video.current) video.current.muted = !video.current.muted
    },
  }
  usePageKeys(isAsking ? {} : keys)
}
