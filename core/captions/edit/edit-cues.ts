/** Edits of a slide's captions: each takes the captions of the slide in order and gives them anew. */

import { speakerOf, spokenBy } from '#core/captions/formats/webvtt/cue-text.ts'
import type { ManualEdit, StoredCue } from '#core/model/caption.ts'

/** No caption is shown for less. */
export const LEAST_SECONDS = 0.2

type Cues = readonly StoredCue[]

const atLeast = (manualEdit: ManualEdit): ManualEdit => (manualEdit === 'time' ? 'time' : 'text')

/** What a caption is after somebody has moved it. What was heard stays unchecked: its words were not looked at. */
const moved = ({ manualEdit }: StoredCue): Pick<StoredCue, 'manualEdit' | 'needsReview'> =>
  manualEdit === 'heard' ? { manualEdit, needsReview: true } : { manualEdit: 'time', needsReview: false }

/** Text as a caption holds it: no empty lines, no spaces at the ends. */
export function tidyText(text: string): string {
  return text
    .replace(/\r\n?/g, '\n')
    .split('\n')
    .map((line) => line.replace(/[ \t]+/g, ' ').trim())
    .filter((line) => line !== '')
    .join('\n')
}

const replaced = (cues: Cues, id: string, change: (cue: StoredCue) => StoredCue): StoredCue[] =>
  cues.map((cue) => (cue.id === id ? change(cue) : cue))

/** Other words in a caption. Tags it had are let go, since they belonged to the old words; who speaks stays. */
function withText(cue: StoredCue, text: string): StoredCue {
  const speaker = cue.markup && speakerOf(cue.markup)
  return {
    ...cue,
    text,
    markup: speaker ? spokenBy(speaker, text) : null,
    manualEdit: atLeast(cue.manualEdit),
    needsReview: false,
  }
}

/** Changes what a caption says. */
export const setText = (cues: Cues, id: string, text: string): StoredCue[] =>
  replaced(cues, id, (cue) => withText(cue, tidyText(text)))

/** Names who speaks; an empty name takes the name away. */
export function setSpeaker(cues: Cues, id: string, speaker: string): StoredCue[] {
  const markup = (text: string) => (speaker.trim() === '' ? null : spokenBy(speaker, text))
  return replaced(cues, id, (cue) => ({ ...cue, markup: markup(cue.text), manualEdit: atLeast(cue.manualEdit) }))
}

/** Sets when a caption comes and goes. */
export function setTimes(cues: Cues, id: string, times: { start?: number; end?: number }): StoredCue[] {
  return replaced(cues, id, (cue) => {
    const start = Math.max(0, times.start ?? cue.start)
    return { ...cue, start, end: Math.max(start + LEAST_SECONDS, times.end ?? cue.end), ...moved(cue) }
  })
}

/** Says that a caption is right as it is. */
export function confirm(cues: Cues, id: string): StoredCue[] {
  return replaced(cues, id, (cue) => ({ ...cue, manualEdit: atLeast(cue.manualEdit), needsReview: false }))
}

/**
 * Divides a caption where the cursor is; the time is shared by letters until the words are known better.
 *
 * @param at place in its text
 * @param newId name of the second part
 * @returns the same captions when one side would be empty
 */
export function split(cues: Cues, id: string, at: number, newId: string): StoredCue[] {
  return cues.flatMap((cue) => {
    if (cue.id !== id) return [cue]
    const [head, tail] = [tidyText(cue.text.slice(0, at)), tidyText(cue.text.slice(at))]
    if (head === '' || tail === '') return [cue]
    const middle = cue.start + ((cue.end - cue.start) * head.length) / (head.length + tail.length)
    return [
      { ...withText(cue, head), end: middle },
      { ...withText(cue, tail), id: newId, start: middle },
    ]
  })
}

/** Joins a caption with the next one of its take. @param breakLines puts the line break where it reads best */
export function joinNext(cues: Cues, id: string, breakLines: (text: string) => string): StoredCue[] {
  const i = cues.findIndex((cue) => cue.id === id)
  const [cue, next] = [cues[i], cues[i + 1]]
  if (!cue || !next || cue.takeId !== next.takeId) return [...cues]
  // captions of other sentences become one with theirs: they are kept or made again together
  const scriptText =
    cue.scriptText === next.scriptText ? cue.scriptText : [cue.scriptText, next.scriptText].filter(Boolean).join(' ')
  const text = breakLines([cue.text, next.text].filter(Boolean).join(' ').replaceAll('\n', ' '))
  const manualEdit = cue.manualEdit === 'time' || next.manualEdit === 'time' ? 'time' : 'text'
  const whole: StoredCue = { ...withText(cue, text), end: next.end, manualEdit, scriptText }
  const sources = new Set([cue.scriptText, next.scriptText])
  return cues.flatMap((c, j) => {
    if (j === i) return [whole]
    if (j === i + 1) return []
    return [c.scriptText !== '' && sources.has(c.scriptText) ? { ...c, scriptText, manualEdit: atLeast(c.manualEdit) } : c]
  })
}

/**
 * Moves an edge of a caption, or all of it. It stays within its neighbours and keeps a length that can be seen.
 *
 * @param seconds later when positive
 * @param most length of the take or slide
 */
export function nudge(cues: Cues, id: string, edge: 'start' | 'end' | 'both', seconds: number, most: number): StoredCue[] {
  const i = cues.findIndex((cue) => cue.id === id)
  const cue = cues[i]
  if (!cue) return [...cues]
  const own = (other: StoredCue | undefined) => (other && other.takeId === cue.takeId && other.text !== '' ? other : undefined)
  const floor = own(cues.slice(0, i).findLast((c) => own(c)))?.end ?? 0
  const ceiling = own(cues.slice(i + 1).find((c) => own(c)))?.start ?? most
  const within = (value: number, from: number, to: number) => Math.min(Math.max(value, from), Math.max(from, to))
  let { start, end } = cue
  if (edge === 'both') {
    // captions that overlap already may move apart
    const shift = within(seconds, Math.min(0, floor - start), Math.max(0, ceiling - end))
    ;[start, end] = [start + shift, end + shift]
  } else if (edge === 'start') start = within(start + seconds, Math.min(floor, start), end - LEAST_SECONDS)
  else end = within(end + seconds, start + LEAST_SECONDS, Math.max(ceiling, end))
  return replaced(cues, id, (c) => ({ ...c, start, end, ...moved(c) }))
}

/** Takes a caption away. One that was made from a script is left out, so that it does not make itself again. */
export function remove(cues: Cues, id: string): StoredCue[] {
  return cues.flatMap((cue) => {
    if (cue.id !== id) return [cue]
    return cue.scriptText === ''
      ? []
      : [{ ...cue, text: '', markup: null, manualEdit: atLeast(cue.manualEdit), needsReview: false }]
  })
}

/** Gives the captions of the same sentences back to the script. */
export function followScript(cues: Cues, id: string): StoredCue[] {
  const scriptText = cues.find((cue) => cue.id === id)?.scriptText
  return cues.map((cue) => (scriptText && cue.scriptText === scriptText ? { ...cue, manualEdit: null } : cue))
}

/** Gives the times of all captions back to their words; what they say stays. */
export const retime = (cues: Cues): StoredCue[] =>
  cues.map((cue) => (cue.manualEdit === 'time' && cue.scriptText !== '' ? { ...cue, manualEdit: 'text' } : cue))

/** The sentence that a caption is part of, as it is said in its take. */
export interface SpokenSentence {
  text: string
  takeId: string
  /** Seconds of the take. */
  start: number
  end: number
}

/** @returns null when the caption belongs to no script, or to no recording */
export function sentenceOf(cues: Cues, id: string): SpokenSentence | null {
  const cue = cues.find((c) => c.id === id)
  if (!cue?.scriptText || !cue.takeId) return null
  const own = cues.filter((c) => c.scriptText === cue.scriptText && c.takeId === cue.takeId)
  return {
    text: cue.scriptText,
    takeId: cue.takeId,
    start: Math.min(...own.map((c) => c.start)),
    end: Math.max(...own.map((c) => c.end)),
  }
}

/** Adds a caption, such as a sound note, that belongs to no script. */
export function add(cues: Cues, cue: Pick<StoredCue, 'id' | 'slideId' | 'takeId' | 'start' | 'end' | 'text'>): StoredCue[] {
  const added: StoredCue = { ...cue, markup: null, settings: '', needsReview: false, scriptText: '', manualEdit: 'time' }
  return [...cues, added].sort((a, b) => a.start - b.start)
}

/** How often a text stands in captions, line breaks read as spaces. */
export function countFound(cues: Cues, find: string, matchCase: boolean): number {
  return cues.reduce((sum, cue) => sum + (cue.text.match(pattern(find, matchCase))?.length ?? 0), 0)
}

function pattern(find: string, matchCase: boolean): RegExp {
  const words = find
    .trim()
    .split(/\s+/)
    .map((word) => word.replace(/[.*+?^${}()|[\]\\]/g, '\\$&'))
  return new RegExp(words.join('\\s+'), matchCase ? 'gu' : 'giu')
}

/** Replaces a text in every caption that has it. What was heard stays unchecked. @param breakLines puts line breaks anew */
export function replaceAll(
  cues: Cues,
  find: string,
  put: string,
  matchCase: boolean,
  breakLines: (text: string) => string,
): StoredCue[] {
  if (find.trim() === '') return [...cues]
  const sought = pattern(find, matchCase)
  return cues.map((cue) => {
    const text = cue.text.replace(sought, () => put)
    if (text === cue.text) return cue
    const changed = withText(cue, breakLines(text.replaceAll('\n', ' ')))
    return cue.manualEdit === 'heard' ? { ...changed, manualEdit: 'heard', needsReview: true } : changed
  })
}
