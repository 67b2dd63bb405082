/** What one press does about a fault of a caption. */

import * as edits from '#core/captions/edit/edit-cues.ts'
import { type BreakOptions, breakLines, captionTexts, READING, SHOWN, widthOf } from '#core/captions/generate/break-lines.ts'
import type { StoredCue } from '#core/model/caption.ts'
import type { CueFinding, CueFix } from './check-cues.ts'

export const FIX_WORDS: Record<CueFix, string> = {
  break: 'Break the line anew',
  join: 'Join with the next',
  divide: 'Divide it',
  'end-earlier': 'End when the next begins',
  'end-later': 'Stay longer',
  close: 'Stay until the next',
  'start-later': 'Begin with the voice',
  right: 'It is right',
}

interface MendWith extends BreakOptions {
  /** Where somebody speaks, seconds of the take. */
  speech: readonly { start: number; end: number }[]
  newId: () => string
}

/** @param cues of the slide, in order @returns the captions of the slide fixed */
export function fixCue(cues: readonly StoredCue[], { cueId, fix }: CueFinding, options: MendWith): StoredCue[] {
  const i = cues.findIndex((cue) => cue.id === cueId)
  const cue = cues[i]
  if (!cue || !fix) return [...cues]
  const next = cues.slice(i + 1).find((c) => c.text !== '' && c.takeId === cue.takeId)
  const text = cue.text.replaceAll('\n', ' ')
  switch (fix) {
    case 'break':
      return edits.setText(cues, cueId, breakLines(text, options))
    case 'join':
      return edits.joinNext(cues, cueId, (joined) => breakLines(joined, options))
    case 'divide': {
      const whole = captionTexts(text, options)
      const parts = whole.length > 1 ? whole : cue.text.split('\n')
      let list = edits.setText(cues, cueId, parts.join('\n'))
      let id = cueId
      for (const part of parts.slice(0, -1)) {
        const further = options.newId()
        list = edits.split(list, id, part.length, further)
        id = further
      }
      return list
    }
    case 'end-earlier':
    case 'close':
      return next ? edits.setTimes(cues, cueId, { end: next.start }) : [...cues]
    case 'end-later': {
      const wanted = cue.start + Math.max(SHOWN.leastSeconds, widthOf(text) / READING.mostCps)
      return edits.setTimes(cues, cueId, { end: Math.min(wanted, next?.start ?? wanted) })
    }
    case 'start-later': {
      const voice = options.speech.find((s) => s.end > cue.start)
      return voice ? edits.setTimes(cues, cueId, { start: voice.start }) : [...cues]
    }
    case 'right':
      return edits.confirm(cues, cueId)
  }
}
