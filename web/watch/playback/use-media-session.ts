/** What a phone shows on its locked screen, and what the keys of a headset do. @see W3C Media Session */
import { useEffect, useRef } from 'react'
import { toSeconds } from '#core/timing/clocks.ts'
import { chapterAt, type Source } from '#web/watch/edition/edition.ts'
import type { Playback } from '#web/watch/playback/use-playback.ts'

const SKIP_S = 10

/** Browsers know different actions, and throw at those they do not know. */
function handle(action: MediaSessionAction, act: MediaSessionActionHandler | null) {
  try {
    navigator.mediaSession.setActionHandler(action, act)
  } catch {
    // a comfort that this browser does not have
  }
}

export function useMediaSession({ edition, fileUrl }: Source, { moment, play, pause, seek }: Playback) {
  // looked at when a key is pressed: the moment changes with every frame
  const now = useRef(moment)
  now.current = moment
  useEffect(() => {
    if (!('mediaSession' in navigator)) return
    const artwork = edition.hasTranscript ? [{ src: fileUrl('poster.jpg'), type: 'image/jpeg' }] : []
    navigator.mediaSession.metadata = new MediaMetadata({ title: edition.title, artist: edition.author, artwork })
  }, [edition, fileUrl])
  useEffect(() => {
    if (!('mediaSession' in navigator)) return
    const go = (by: number) => () => {
      const chapter = edition.chapters[chapterAt(edition.chapters, now.current) + by]
      if (chapter) seek(toSeconds(chapter.startSamples))
    }
    const acts: [MediaSessionAction, MediaSessionActionHandler][] = [
      ['play', play],
      ['pause', pause],
      ['seekbackward', () => seek(Math.max(0, now.current - SKIP_S))],
      ['seekforward', () => seek(Math.min(toSeconds(edition.lengthSamples), now.current + SKIP_S))],
      ['previoustrack', go(-1)],
      ['nexttrack', go(1)],
    ]
    for (const [action, act] of acts) handle(action, act)
    return () => {
      for (const [action] of acts) handle(action, null)
    }
  }, [edition, play, pause, seek])
}
