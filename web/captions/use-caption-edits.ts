/** Changes of captions as edits that can be undone, each for one slide of one track. */

import { useCallback, useMemo } from 'react'
import { type BreakOptions, breakLines } from '#core/captions/generate/break-lines.ts'
import type { CaptionTrack, StoredCue } from '#core/model/caption.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { say } from '#core/words/say.ts'
import type { Command } from '#web/data/commands.ts'
import { edit, editOrTell } from '#web/data/history.ts'
import { useAppDispatch } from '#web/data/store.ts'

/** Captions of a slide in the order in which they are read. */
export function cuesOfSlide(track: CaptionTrack, slideId: string): StoredCue[] {
  return track.cues.filter((cue) => cue.slideId === slideId).sort((a, b) => a.start - b.start)
}

export interface CaptionEdits {
  options: BreakOptions
  breakLines: (text: string) => string
  /** @param label as it is read after "Undone:" */
  change: (slideId: string, label: string, change: (cues: StoredCue[]) => StoredCue[]) => void
  /** The same on many slides, as one step. */
  changeAll: (label: string, change: (cues: StoredCue[]) => StoredCue[]) => number
}

export function useCaptionEdits(lecture: Lecture, track: CaptionTrack): CaptionEdits {
  const dispatch = useAppDispatch()
  const options = useMemo(
    () => ({ language: track.language, lineCharacters: lecture.lineCharacters }),
    [track.language, lecture.lineCharacters],
  )
  const command = useCallback(
    (slideId: string, cues: StoredCue[]): Command => ({ kind: 'captions', trackId: track.id, slideId, cues }),
    [track.id],
  )
  const numbered = (slideId: string) => lecture.slides.findIndex((s) => s.id === slideId) + 1
  return {
    options,
    breakLines: (text) => breakLines(text, options),
    change(slideId, label, change) {
      const before = cuesOfSlide(track, slideId)
      const forth = [command(slideId, change(before))]
      const back = [command(slideId, before)]
      void dispatch(
        editOrTell({
          lectureId: lecture.id,
          label: say('{label} on slide {slideId}', { label, slideId: numbered(slideId) }),
          forth,
          back,
        }),
      )
    },
    changeAll(label, change) {
      const forth: Command[] = []
      const back: Command[] = []
      let count = 0
      for (const { id } of lecture.slides) {
        const before = cuesOfSlide(track, id)
        const after = change(before)
        const changed = after.filter((cue, i) => cue.text !== before[i]?.text).length
        if (changed === 0) continue
        count += changed
        forth.push(command(id, after))
        back.push(command(id, before))
      }
      if (count > 0) void dispatch(edit({ lectureId: lecture.id, label, forth, back }))
      return count
    },
  }
}
