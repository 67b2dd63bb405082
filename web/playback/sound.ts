/** One sound at a time: starting another ends the one before. */
import { useSyncExternalStore } from 'react'

let element: HTMLAudioElement | null = null
let playing: string | null = null
const listeners = new Set<() => void>()
const starting = new Set<() => void>()
const ending = new Set<(url: string) => void>()

/** Calls back whenever a sound begins, for whatever else must fall silent then. */
export const whenSoundStarts = (listener: () => void) => void starting.add(listener)

/** Calls back when a sound has come to its own end. @returns how to be told no more */
export function whenSoundEnds(listener: (url: string) => void): () => void {
  ending.add(listener)
  return () => void ending.delete(listener)
}

function tell(url: string | null) {
  playing = url
  if (url !== null) for (const listener of starting) listener()
  for (const listener of listeners) listener()
}

/** Plays a sound from a moment on, or stops it when it is the one playing. @param seconds from its beginning */
export function togglePlay(url: string, seconds = 0) {
  const same = playing === url
  stopPlay()
  if (same) return
  const audio = new Audio(url)
  element = audio
  audio.currentTime = seconds
  audio.addEventListener('ended', () => {
    if (element !== audio) return
    stopPlay()
    for (const listener of ending) listener(url)
  })
  audio.addEventListener('error', () => element === audio && stopPlay())
  audio.play().then(
    () => element === audio && tell(url),
    () => element === audio && stopPlay(),
  )
}

export function stopPlay() {
  element?.pause()
  element = null
  if (playing !== null) tell(null)
}

/** Plays a stretch of a sound, seconds. It ends when the browser next tells where it is: up to a quarter of a second late. */
export function playStretch(url: string, start: number, end: number) {
  stopPlay()
  togglePlay(url, start)
  const own = element
  own?.addEventListener('timeupdate', () => own === element && own.currentTime >= end && stopPlay())
}

/** Where the sound is that plays now, in seconds from its beginning. */
export const playMoment = () => element?.currentTime ?? 0

/** @returns address of the sound that plays, or null */
export const usePlaying = () =>
  useSyncExternalStore(
    (listener) => {
      listeners.add(listener)
      return () => listeners.delete(listener)
    },
    () => playing,
  )
