/** Where a learner stopped, kept in the browser, so that the next visit goes on from there. */
import { useEffect, useRef, useState } from 'react'
import { toSeconds } from '#core/timing/clocks.ts'
import { chapterAt, type Source } from '#web/watch/edition/edition.ts'
import { recall, remember } from '#web/watch/edition/remember.ts'
import type { Playback } from '#web/watch/playback/use-playback.ts'

const EVERY_S = 2
/** Nearer to an end than this there is nothing to go on with. */
const WORTH_S = 5

interface Place {
  edition: string
  slideId: string | undefined
  moment: number
}

/** @returns the moment that was gone to, until something else is done; null when there was none */
export function usePlace(
  { place: name, edition, resumeAt }: Pick<Source, 'place' | 'edition' | 'resumeAt'>,
  { moment, playing, seek }: Playback,
): number | null {
  const [resumed, setResumed] = useState<number | null>(null)
  const kept = useRef(0)
  // once, when the page opens
  const open = useRef(true)
  useEffect(() => {
    if (!open.current) return
    open.current = false
    const named = Number(/^#t=(\d+(?:\.\d+)?)$/.exec(location.hash)?.[1] ?? Number.NaN)
    // an address that names a moment opens there, whatever was seen last time
    if (named <= toSeconds(edition.lengthSamples)) return seek(named)
    const goTo = (to: number) => {
      seek(to)
      kept.current = to
      setResumed(to)
    }
    if (resumeAt !== undefined)
      return resumeAt >= WORTH_S && resumeAt <= toSeconds(edition.lengthSamples) - WORTH_S ? goTo(resumeAt) : undefined
    try {
      const place = JSON.parse(recall(`place ${name}`) ?? 'null') as Place | null
      if (!place || place.moment < WORTH_S || place.moment > toSeconds(edition.lengthSamples) - WORTH_S) return
      const chapter = edition.chapters.find((c) => c.slideId !== undefined && c.slideId === place.slideId)
      // in a newer edition the same second may be another sentence: the slide begins anew
      const to = place.edition === edition.id ? place.moment : chapter ? toSeconds(chapter.startSamples) : null
      if (to === null || to < WORTH_S) return
      goTo(to)
    } catch {
      // what is kept there is not ours
    }
  }, [name, edition, seek, resumeAt])
  useEffect(() => {
    if (playing) setResumed(null)
    if (Math.abs(moment - kept.current) < EVERY_S) return
    kept.current = moment
    const { slideId } = edition.chapters[chapterAt(edition.chapters, moment)]!
    remember(`place ${name}`, JSON.stringify({ edition: edition.id, slideId, moment } satisfies Place))
  }, [name, edition, moment, playing])
  return resumed
}
