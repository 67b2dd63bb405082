/** What is to be found fault with in captions, in plain words, and which fault one press can fix. */
import { READING, SHOWN, widthOf } from '#core/captions/generate/break-lines.ts'

export type CueFault =
  | 'too-fast'
  | 'long-line'
  | 'many-lines'
  | 'overlap'
  | 'short'
  | 'long'
  | 'gap'
  | 'early'
  | 'empty'
  | 'needs-review'

/** How one press fixes a fault. */
export type CueFix = 'break' | 'join' | 'divide' | 'end-earlier' | 'end-later' | 'close' | 'start-later' | 'right'

export interface CueFinding {
  fault: CueFault
  cueId: string
  /** Whether it breaks a rule, or is only worth a look. */
  level: 'rule' | 'look'
  finding: string
  fix: CueFix | null
}

export interface CheckedCue {
  id: string
  /** Seconds on one clock. */
  start: number
  end: number
  text: string
  needsReview: boolean
}

/** Gaps between these make a caption flicker off and on, seconds. */
const FLICKER_S = { least: 0.001, most: 0.5 }
/** A caption that is there so long before its words tells them too early. */
const EARLY_S = 0.5
const seconds = (value: number) => `${value.toFixed(1)} s`

/** Reading speed, characters a second; line breaks are read as spaces. */
export function charactersASecond(cue: Pick<CheckedCue, 'start' | 'end' | 'text'>): number {
  return widthOf(cue.text.replaceAll('\n', ' ')) / Math.max(0.001, cue.end - cue.start)
}

/**
 * @param cues in order of their starts
 * @param lineCharacters the longest line that is allowed
 * @param speech where somebody speaks, on the same clock; null where that is not known
 * @returns findings in the order of the captions
 * @see DCMP Captioning Key; BBC Subtitle Guidelines (reading speed, lines, shortest and longest)
 */
export function checkCues(
  cues: readonly CheckedCue[],
  lineCharacters: number,
  speech: readonly { start: number; end: number }[] | null = null,
): CueFinding[] {
  return cues.flatMap((cue, i) => {
    const found: CueFinding[] = []
    const say = (fault: CueFault, level: CueFinding['level'], finding: string, fix: CueFix | null) =>
      found.push({ fault, cueId: cue.id, level, finding, fix })
    const next = cues[i + 1]
    if (cue.text.trim() === '') {
      say('empty', 'rule', 'It says nothing yet', null)
      return found
    }
    const lines = cue.text.split('\n')
    const widest = Math.max(...lines.map(widthOf))
    const length = cue.end - cue.start
    const cps = charactersASecond(cue)
    const room = next ? next.start - cue.end : Number.POSITIVE_INFINITY
    const fitsTwoLines = widthOf(cue.text.replaceAll('\n', ' ')) <= 2 * lineCharacters
    if (lines.length > 2)
      say('many-lines', 'rule', `It has ${lines.length} lines; two are read at a glance`, fitsTwoLines ? 'break' : 'divide')
    if (widest > lineCharacters)
      say('long-line', 'rule', `A line of ${widest} characters; ${lineCharacters} fit`, fitsTwoLines ? 'break' : 'divide')
    if (next && room < -FLICKER_S.least)
      say('overlap', 'rule', `It is still there for ${seconds(-room)} when the next one comes`, 'end-earlier')
    if (cps > READING.mostCps) {
      const needed = widthOf(cue.text) / READING.mostCps - length
      say(
        'too-fast',
        'rule',
        `${Math.round(cps)} characters a second; ${READING.mostCps} can be read`,
        room >= needed ? 'end-later' : null,
      )
    }
    if (length < SHOWN.leastSeconds - 0.005) {
      const joins = next && room < 1 && widthOf(cue.text) + widthOf(next.text) < 2 * lineCharacters
      const fix =
        cue.start + SHOWN.leastSeconds <= (next?.start ?? Number.POSITIVE_INFINITY) ? 'end-later' : joins ? 'join' : null
      say('short', 'look', `It is there for ${seconds(length)} only`, fix)
    }
    if (length > SHOWN.mostSeconds + 1) say('long', 'look', `It stays for ${seconds(length)}`, lines.length > 1 ? 'divide' : null)
    if (room > FLICKER_S.least && room < FLICKER_S.most)
      say('gap', 'look', `It goes ${seconds(room)} before the next one comes, which flickers`, 'close')
    const voice = speech?.find((s) => s.end > cue.start)
    if (voice && voice.start - cue.start > EARLY_S && voice.start < cue.end)
      say('early', 'look', `It comes ${seconds(voice.start - cue.start)} before the voice`, 'start-later')
    if (cue.needsReview) say('needs-review', 'look', 'It may not stand on its words: please check', 'right')
    return found
  })
}
