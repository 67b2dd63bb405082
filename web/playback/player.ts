/** The player of this page. */
import { useSyncExternalStore } from 'react'
import { soundUrl } from '#web/data/api.ts'
import { LecturePlayer } from './lecture-player.ts'
import { stopPlay, whenSoundStarts } from './sound.ts'

export const player = new LecturePlayer({
  url: soundUrl,
  audio: (url) => new Audio(url),
  context: () => new AudioContext(),
  now: () => performance.now(),
  silenceOthers: stopPlay,
})
whenSoundStarts(() => player.state().playing && player.pause())

export const usePlayer = () => useSyncExternalStore(player.subscribe, player.state)
