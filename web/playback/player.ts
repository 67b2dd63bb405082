/** The player of this page. */
import { useSyncExternalStore } from 'react'
import { filmUrl, soundUrl } from '#web/data/api.ts'
import { dissolve } from './dissolve.ts'
import { LecturePlayer } from './lecture-player.ts'
import { stopPlay, whenSoundStarts } from './sound.ts'

export const player = new LecturePlayer({
  url: soundUrl,
  audio: (url) => new Audio(url),
  film: (proxy) => {
    const element = document.createElement('video')
    element.playsInline = true
    element.preload = 'auto'
    element.src = filmUrl(proxy)
    return element
  },
  dissolve,
  context: () => new AudioContext(),
  now: () => performance.now(),
  silenceOthers: stopPlay,
})
whenSoundStarts(() => player.state().playing && player.pause())

export const usePlayer = () => useSyncExternalStore(player.subscribe, player.state)
