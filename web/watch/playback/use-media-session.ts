/** What a phone shows on its locked screen, and what the keys of a headset do. @see W3C Media Session */
import { useEffect } from 'react'
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
  useEffect(() => {
    if (!('mediaSession' in navigator)) return
    const artwork = edition.hasTranscript ? [{ src: fileUrl('poster.jpg'), type: 'image/jpeg' }] : []
    navigator.mediaSession.metadata = new MediaMetadata({ title: edition.title, artist: edition.author, artwork })
  }, [edition, fileUrl])
  useEffect(() => {
    if (!('mediaSession' in navigator)) return
    const slide = chapterAt(edition.chapters, moment)
    const goTo = (wanted: number) => () => {
      const chapter = edition.chapters[wanted]
      if (chapter) seek(toSeconds(chapter.startSamples))
    }
    const acts: [MediaSessionAction, MediaSessionActionHandler][] = [
      ['play', play],
      ['pause', pause],
      ['seekbackward', () => seek(Math.max(0, moment - SKIP_S))],
      ['seekforward', () => seek(Math.min(toSeconds(edition.lengthSamples), moment + SKIP_S))],
      ['previoustrack', goTo(slide - 1)],
      ['nexttrack', goTo(slide + 1)],
    ]
    for (const [action, act] of acts) handle(action, act)
    return () => {
      for (const [action] of acts) handle(action, null)
    }
  }, [edition, moment, play, pause, seek])
}
