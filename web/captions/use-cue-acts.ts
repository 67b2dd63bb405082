/** What can be done with a caption, by key or press: hear it, go on from it, divide it, move it; and where one is added. */

import { type KeyboardEvent, useCallback, useRef } from 'react'
import { toast } from 'sonner'
import * as edits from '#core/captions/edit/edit-cues.ts'
import { cuesOnLecture, type LectureCue, placeCues } from '#core/captions/tracks/place-cues.ts'
import type { CaptionTrack, StoredCue } from '#core/model/caption.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { say } from '#core/words/say.ts'
import { player, usePlayer } from '#web/playback/player.ts'
import { type KeyName, keyOf } from './keys.ts'
import { type CaptionEdits, cuesOfSlide } from './use-caption-edits.ts'

const NUDGE_S = 0.1
const NOTE_S = 2.5

const fieldOf = (cueId: string) => document.querySelector<HTMLTextAreaElement>(`#cue-${CSS.escape(cueId)} textarea`)

/** Brings a caption into view and the cursor into its text. */
export function goToCue(cueId: string) {
  const row = document.getElementById(`cue-${cueId}`)
  row?.scrollIntoView({ block: 'center' })
  ;(fieldOf(cueId) ?? row?.querySelector('button'))?.focus({ preventScroll: true })
}

interface CueActs {
  lecture: Lecture
  track: CaptionTrack
  edit: CaptionEdits
  /** Captions that are seen, on the lecture's clock. */
  seen: ReadonlyMap<string, LectureCue>
  looping: boolean
  onChoose: (cueId: string) => void
  /** Goes to the next caption after one that is to be checked. */
  onNextToCheck: (cueId: string) => void
}

export function useCueActs({ lecture, track, edit, seen, looping, onChoose, onNextToCheck }: CueActs) {
  const { playing } = usePlayer()
  /** On the lecture's clock, also of captions that say nothing yet. */
  const stretchOf = (cueId: string) => {
    const known = seen.get(cueId)
    const cue = track.cues.find((c) => c.id === cueId)
    return known ?? (cue && (cuesOnLecture(lecture, [{ ...cue, text: '…' }])[0] ?? null)) ?? null
  }
  const hear = (cueId: string) => {
    const stretch = stretchOf(cueId)
    if (stretch) player.play(stretch.start)
  }
  const step = (cue: StoredCue, by: 1 | -1): StoredCue | null => {
    const order = lecture.slides.flatMap((slide) => cuesOfSlide(track, slide.id)).filter((c) => fieldOf(c.id))
    const next = order[order.findIndex((c) => c.id === cue.id) + by]
    if (!next) return null
    goToCue(next.id)
    if (looping) hear(next.id)
    return next
  }
  const split = (cue: StoredCue) => {
    const field = fieldOf(cue.id)
    // the text as it is saved: what was typed a moment ago is on its way
    if (field)
      edit.change(cue.slideId, say('dividing a caption'), (cues) =>
        edits.split(edits.setText(cues, cue.id, field.value), cue.id, field.selectionStart, crypto.randomUUID()),
      )
  }
  const nudge = (cue: StoredCue, edge: 'start' | 'end', by: number) => {
    const take = lecture.slides.flatMap((s) => s.takes).find((t) => t.id === cue.takeId)
    const most = take ? toSeconds(take.samples) : 3600
    edit.change(cue.slideId, say('time of a caption'), (cues) => edits.nudge(cues, cue.id, edge, by, most))
  }
  const acts: Record<KeyName, (cue: StoredCue) => void> = {
    split,
    join: (cue) => edit.change(cue.slideId, say('joining captions'), (cues) => edits.joinNext(cues, cue.id, edit.breakLines)),
    hear: (cue) => (playing ? player.pause() : hear(cue.id)),
    back: () => player.seek(player.position() - 2),
    right: (cue) => {
      // the text as it stands in the field: what was typed a moment ago is on its way
      const typed = fieldOf(cue.id)?.value ?? cue.text
      edit.change(cue.slideId, say('a caption that is right'), (cues) =>
        typed === cue.text ? edits.confirm(cues, cue.id) : edits.setText(cues, cue.id, typed),
      )
      onNextToCheck(cue.id)
    },
    next: (cue) => void step(cue, 1),
    before: (cue) => void step(cue, -1),
    earlier: (cue) => nudge(cue, 'start', -NUDGE_S),
    later: (cue) => nudge(cue, 'start', NUDGE_S),
    shorter: (cue) => nudge(cue, 'end', -NUDGE_S),
    longer: (cue) => nudge(cue, 'end', NUDGE_S),
  }
  const latest = useRef(acts)
  latest.current = acts
  const onKey = useCallback((event: KeyboardEvent<HTMLTextAreaElement>, cue: StoredCue) => {
    const key = keyOf(event)
    if (!key) return
    event.preventDefault()
    latest.current[key](cue)
  }, [])
  const addNote = () => {
    const now = player.position()
    const { placed, problems } = placeCues(lecture, [
      { start: now, end: now + NOTE_S, text: '[sound]', markup: null, settings: '', line: 1 },
    ])
    const [note] = placed
    if (!note) {
      toast(problems[0] ? say(problems[0].message) : say('No caption can be put here.'))
      return
    }
    const id = crypto.randomUUID()
    edit.change(note.slideId, say('adding a caption'), (cues) => edits.add(cues, { ...note, id }))
    onChoose(id)
    requestAnimationFrame(() => goToCue(id))
  }
  return { stretchOf, hear, split, step, onKey, addNote }
}
