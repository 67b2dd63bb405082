/** What is to be found fault with in captions, in plain words, and what one press does about it: each check and each fix once. */

import * as edits from '#core/captions/edit/edit-cues.ts'
import { type BreakOptions, breakLines, captionTexts, READING, SHOWN, widthOf } from '#core/captions/generate/break-lines.ts'
import type { StoredCue } from '#core/model/caption.ts'
import { figure } from '#core/words/figures.ts'
import { type Message, message, say } from '#core/words/say.ts'

export interface CheckedCue {
  id: string
  /** Seconds on one clock. */
  start: number
  end: number
  text: string
  needsReview: boolean
  /** A recogniser wrote it, and nobody has checked it. */
  isHeard?: boolean
}

interface FixOptions extends BreakOptions {
  /** Where somebody speaks, seconds of the take. */
  speech: readonly { start: number; end: number }[]
  newId: () => string
}

/** The caption that is fixed, among those of its slide. */
interface Fixed {
  cues: readonly StoredCue[]
  cue: StoredCue
  /** The next that says something in the same take. */
  next: StoredCue | undefined
  /** Its text in one line. */
  text: string
  options: FixOptions
}

interface Fix {
  words: Message
  apply(fixed: Fixed): StoredCue[]
}

const endWithNext = ({ cues, cue, next }: Fixed) => (next ? edits.setTimes(cues, cue.id, { end: next.start }) : [...cues])

/** How one press fixes a fault. */
const FIXES = {
  break: {
    words: message('Break the line anew'),
    apply: ({ cues, cue, text, options }) => edits.setText(cues, cue.id, breakLines(text, options)),
  },
  join: {
    words: message('Join with the next'),
    apply: ({ cues, cue, options }) => edits.joinNext(cues, cue.id, (joined) => breakLines(joined, options)),
  },
  divide: {
    words: message('Divide it'),
    apply({ cues, cue, text, options }) {
      const whole = captionTexts(text, options)
      const parts = whole.length > 1 ? whole : cue.text.split('\n')
      let list = edits.setText(cues, cue.id, parts.join('\n'))
      let { id } = cue
      for (const part of parts.slice(0, -1)) {
        const further = options.newId()
        list = edits.split(list, id, part.length, further)
        id = further
      }
      return list
    },
  },
  'end-earlier': { words: message('End when the next begins'), apply: endWithNext },
  close: { words: message('Stay until the next'), apply: endWithNext },
  'end-later': {
    words: message('Stay longer'),
    apply({ cues, cue, next, text }) {
      const wanted = cue.start + Math.max(SHOWN.leastSeconds, widthOf(text) / READING.mostCps)
      return edits.setTimes(cues, cue.id, { end: Math.min(wanted, next?.start ?? wanted) })
    },
  },
  'start-later': {
    words: message('Begin with the voice'),
    apply({ cues, cue, options }) {
      const voice = options.speech.find((s) => s.end > cue.start)
      return voice ? edits.setTimes(cues, cue.id, { start: voice.start }) : [...cues]
    },
  },
  right: { words: message('It is right'), apply: ({ cues, cue }) => edits.confirm(cues, cue.id) },
} satisfies Record<string, Fix>
export type CueFix = keyof typeof FIXES

export const FIX_WORDS = Object.fromEntries(Object.entries(FIXES).map(([fix, { words }]) => [fix, words])) as Record<
  CueFix,
  Message
>

/** @param cues of the slide, in order @returns the captions of the slide fixed */
export function fixCue(cues: readonly StoredCue[], { cueId, fix }: CueFinding, options: FixOptions): StoredCue[] {
  const i = cues.findIndex((cue) => cue.id === cueId)
  const cue = cues[i]
  if (!cue || !fix) return [...cues]
  const next = cues.slice(i + 1).find((c) => c.text !== '' && c.takeId === cue.takeId)
  return FIXES[fix].apply({ cues, cue, next, text: cue.text.replaceAll('\n', ' '), options })
}

/** A caption that says something, among those beside it. */
interface Looked {
  cue: CheckedCue
  next: CheckedCue | undefined
  lines: string[]
  /** Seconds that it is there, and until the next comes; below 0 where both are there. */
  length: number
  room: number
  lineCharacters: number
  fitsTwoLines: boolean
  /** The first stretch of speech that is not over when it comes; undefined where none is known. */
  voice: { start: number; end: number } | undefined
}

interface Check {
  /** Whether it breaks a rule, or is only worth a look. */
  level: 'rule' | 'look'
  find(looked: Looked): { finding: string; fix: CueFix | null } | null
}

/** Gaps between these make a caption flicker off and on, seconds. */
const FLICKER_S = { least: 0.001, most: 0.5 }
/** A caption that is there so long before its words tells them too early. */
const EARLY_S = 0.5
/** So much shorter or longer than it should be is nobody's fault: times are kept in milliseconds, and a sentence may be long. */
const SHORT_BY_S = 0.005
const LONG_BY_S = 1
/** Two captions so close together can be one. */
const JOINED_S = 1
const seconds = (value: number) => say('{seconds} s', { seconds: figure(value, 1) })

/** Reading speed, characters a second; line breaks are read as spaces. */
export function charactersASecond(cue: Pick<CheckedCue, 'start' | 'end' | 'text'>): number {
  return widthOf(cue.text.replaceAll('\n', ' ')) / Math.max(0.001, cue.end - cue.start)
}

/** In the order in which they are told. */
const CHECKS = {
  'many-lines': {
    level: 'rule',
    find: ({ lines, fitsTwoLines }) =>
      lines.length > 2
        ? {
            finding: say('It has {lines} lines; two are read at a glance', { lines: lines.length }),
            fix: fitsTwoLines ? 'break' : 'divide',
          }
        : null,
  },
  'long-line': {
    level: 'rule',
    find({ lines, lineCharacters, fitsTwoLines }) {
      const widest = Math.max(...lines.map(widthOf))
      if (widest <= lineCharacters) return null
      return {
        finding: say('A line of {widest} characters; {lineCharacters} fit', { widest, lineCharacters }),
        fix: fitsTwoLines ? 'break' : 'divide',
      }
    },
  },
  overlap: {
    level: 'rule',
    find: ({ room }) =>
      room < -FLICKER_S.least
        ? {
            finding: say('It is still there for {time} when the next one comes', { time: seconds(-room) }),
            fix: 'end-earlier',
          }
        : null,
  },
  'too-fast': {
    level: 'rule',
    find({ cue, length, room }) {
      const cps = charactersASecond(cue)
      if (cps <= READING.mostCps) return null
      const needed = widthOf(cue.text) / READING.mostCps - length
      const finding = say('{rate} characters a second; {most} can be read', { rate: Math.round(cps), most: READING.mostCps })
      return { finding, fix: room >= needed ? 'end-later' : null }
    },
  },
  short: {
    level: 'look',
    find({ cue, next, length, room, lineCharacters }) {
      if (length >= SHOWN.leastSeconds - SHORT_BY_S) return null
      const isRoom = cue.start + SHOWN.leastSeconds <= (next?.start ?? Number.POSITIVE_INFINITY)
      const joins = next && room < JOINED_S && widthOf(cue.text) + widthOf(next.text) < 2 * lineCharacters
      return {
        finding: say('It is there for {time} only', { time: seconds(length) }),
        fix: isRoom ? 'end-later' : joins ? 'join' : null,
      }
    },
  },
  long: {
    level: 'look',
    find: ({ length, lines }) =>
      length > SHOWN.mostSeconds + LONG_BY_S
        ? { finding: say('It stays for {time}', { time: seconds(length) }), fix: lines.length > 1 ? 'divide' : null }
        : null,
  },
  gap: {
    level: 'look',
    find: ({ room }) =>
      room > FLICKER_S.least && room < FLICKER_S.most
        ? { finding: say('It goes {time} before the next one comes, which flickers', { time: seconds(room) }), fix: 'close' }
        : null,
  },
  early: {
    level: 'look',
    find: ({ cue, voice }) =>
      voice && voice.start - cue.start > EARLY_S && voice.start < cue.end
        ? { finding: say('It comes {time} before the voice', { time: seconds(voice.start - cue.start) }), fix: 'start-later' }
        : null,
  },
  'needs-review': {
    level: 'look',
    find({ cue }) {
      if (cue.isHeard) return { finding: say('Heard by a recogniser, not checked'), fix: 'right' }
      return cue.needsReview ? { finding: say('It may not stand on its words: please check'), fix: 'right' } : null
    },
  },
} satisfies Record<string, Check>

/** `empty`: it says nothing yet, and nothing else is said of it. */
export type CueFault = keyof typeof CHECKS | 'empty'

export interface CueFinding {
  fault: CueFault
  cueId: string
  level: Check['level']
  finding: string
  fix: CueFix | null
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
  return cues.flatMap((cue, i): CueFinding[] => {
    if (cue.text.trim() === '')
      return [{ fault: 'empty', cueId: cue.id, level: 'rule', finding: say('It says nothing yet'), fix: null }]
    const next = cues[i + 1]
    const looked: Looked = {
      cue,
      next,
      lines: cue.text.split('\n'),
      length: cue.end - cue.start,
      room: next ? next.start - cue.end : Number.POSITIVE_INFINITY,
      lineCharacters,
      fitsTwoLines: widthOf(cue.text.replaceAll('\n', ' ')) <= 2 * lineCharacters,
      voice: speech?.find((s) => s.end > cue.start),
    }
    return (Object.entries(CHECKS) as [keyof typeof CHECKS, Check][]).flatMap(([fault, { level, find }]) => {
      const found = find(looked)
      return found ? [{ fault, cueId: cue.id, level, ...found }] : []
    })
  })
}
