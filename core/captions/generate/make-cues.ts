/** Captions of a take from its script: those that make themselves, and between them those that somebody changed by hand. */

import { type AlignedSentence, type Alignment, finalUtterance } from '#core/captions/align/align.ts'
import type { ManualEdit, StoredCue } from '#core/model/caption.ts'
import type { SampleRange } from '#core/model/sample-range.ts'
import { sentences } from '#core/script/sentences.ts'
import { type BreakOptions, captionRuns, LINE_CHARACTERS, type Piece, piecesOf, SHOWN } from './break-lines.ts'
import { spreadOverSpeech } from './spread.ts'

/** Common practice, no published source: a caption is there just before its words and stays a little after them. */
const EARLY_S = 0.05
const LINGER_S = 0.4
/** Shorter gaps flicker: the caption stays until the next. */
const CLOSED_GAP_S = 0.5
/** A sentence this short is read together with the next. */
const TINY_CHARACTERS = 10
/** Where nothing better is known. */
const SHORTEST_S = 0.05

/** What captions are made of. */
export interface CueMaterial {
  script: string
  /** BCP 47. */
  language: string
  /** Characters a line, 32 to 42. */
  lineCharacters: number
  takeId: string
  /** Length of the take: no caption reaches past it. */
  seconds: number
  /** Where the voice is, samples of the take. */
  speech: readonly SampleRange[]
  /** When the words are heard; null while nobody knows. */
  alignment: Alignment | null
  /** The words were sought and not found, or by the voice of another language: everything is marked for a look. */
  unsure: boolean
  /** The words of an earlier script were found in this take: captions that say the same keep their times until they are found anew. */
  wereFound?: boolean
}

export type MadeCue = Omit<StoredCue, 'id' | 'slideId'>

/** Whole sentences whose captions are made together. */
interface Unit {
  /** Sentences from the first to before the last. */
  from: number
  to: number
  /** Its captions, when somebody changed them. */
  byHand: readonly StoredCue[] | null
}

interface Draft {
  text: string
  scriptText: string
  manualEdit: ManualEdit
  needsReview: boolean
  markup: string | null
  settings: string
  heard: { start: number; end: number } | null
  /** The times stay as they are. */
  fixed: boolean
}

/** Captions of one source in a row, of which at least one was changed by hand. */
function handUnits(before: readonly StoredCue[]): { scriptText: string; cues: StoredCue[] }[] {
  const groups: { scriptText: string; cues: StoredCue[] }[] = []
  for (const cue of before) {
    if (!cue.scriptText) continue
    const last = groups.at(-1)
    if (last?.scriptText === cue.scriptText) last.cues.push(cue)
    else groups.push({ scriptText: cue.scriptText, cues: [cue] })
  }
  return groups.filter((group) => group.cues.some((cue) => cue.manualEdit !== null))
}

/** Sentences that somebody changed by hand stay together as they were; the others stand alone, tiny ones with a neighbour. */
function unitsOf(said: readonly string[], before: readonly StoredCue[], { lineCharacters }: BreakOptions): Unit[] {
  const waiting = handUnits(before)
  const units: Unit[] = []
  for (let from = 0; from < said.length; ) {
    let to = from + 1
    let text = said[from]!
    const matches = (scriptText: string) => waiting.findIndex((unit) => unit.scriptText === scriptText)
    let found = matches(text)
    // a caption that joins sentences knows them all
    for (
      let end = from + 1;
      found < 0 && end < said.length && waiting.some((unit) => unit.scriptText.startsWith(`${text} `));
      end++
    ) {
      text += ` ${said[end]}`
      found = matches(text)
      if (found >= 0) to = end + 1
    }
    if (found >= 0) units.push({ from, to, byHand: waiting.splice(found, 1)[0]!.cues })
    else {
      const next = said[from + 1]
      const tiny =
        next !== undefined &&
        said[from]!.length <= TINY_CHARACTERS &&
        said[from]!.length + next.length < 2 * lineCharacters &&
        matches(next) < 0
      to = from + (tiny ? 2 : 1)
      units.push({ from, to, byHand: null })
    }
    from = to
  }
  return units
}

/** Space-separated words of sentences and when each is heard. */
function heardWords(list: readonly AlignedSentence[]): ({ start: number; end: number } | null)[] {
  return list.flatMap((sentence) => {
    const words = new Map(finalUtterance(sentence)?.words.map((word) => [word.k, word]))
    return sentence.text.split(' ').map((_, k) => words.get(k) ?? null)
  })
}

function spanOf(words: readonly ({ start: number; end: number } | null)[]): Draft['heard'] {
  const heard = words.filter((word) => word !== null)
  return heard.length > 0 ? { start: heard[0]!.start, end: heard.at(-1)!.end } : null
}

/** Times of texts that together say so many words, each by the words it says, or by its share of letters. */
function spansOfTexts(texts: readonly string[], words: readonly ({ start: number; end: number } | null)[]): Draft['heard'][] {
  const counts = texts.map((text) => text.split(/\s+/).filter(Boolean).length)
  const sum = (list: readonly number[]) => list.reduce((a, b) => a + b, 0)
  const weights = sum(counts) === words.length ? counts : texts.map((text) => text.length)
  const whole = Math.max(1, sum(weights))
  let before = 0
  return weights.map((weight) => {
    const from = Math.round((before / whole) * words.length)
    before += weight
    return spanOf(words.slice(from, Math.max(from + 1, Math.round((before / whole) * words.length))))
  })
}

function draftByHand(
  unit: Unit,
  scriptText: string,
  takeId: string,
  words: readonly ({ start: number; end: number } | null)[],
): Draft[] {
  const cues = unit.byHand!
  const spans = spansOfTexts(
    cues.map((cue) => cue.text),
    words,
  )
  return cues.map((cue, i): Draft => {
    const { text, markup, settings } = cue
    // times set by hand belong to the take they were set in
    const fixed = cue.manualEdit === 'time' && cue.takeId === takeId
    const manualEdit = cue.manualEdit === 'time' && !fixed ? 'text' : cue.manualEdit
    return {
      text,
      markup,
      settings,
      scriptText,
      manualEdit,
      needsReview: false,
      heard: fixed ? { start: cue.start, end: cue.end } : spans[i]!,
      fixed,
    }
  })
}

function draftAlone(scriptText: string, pieces: readonly Piece[], needsReview: boolean, options: BreakOptions): Draft[] {
  return captionRuns(pieces, options).map(({ from, to, text }): Draft => {
    const heard = spanOf(pieces.slice(from, to).map((piece) => piece.heard))
    return { text, scriptText, manualEdit: null, needsReview, markup: null, settings: '', heard, fixed: false }
  })
}

/** Drafts that were heard, with the rests that reading needs. */
function timed(
  drafts: readonly (Draft & { heard: NonNullable<Draft['heard']> })[],
  seconds: number,
): { start: number; end: number }[] {
  return drafts.map(({ heard, fixed }, i) => {
    if (fixed) return heard
    const before = drafts[i - 1]?.heard
    const next = drafts[i + 1]
    const start = Math.max(0, heard.start - EARLY_S, before ? Math.min(before.end, heard.start) : 0)
    const wanted = Math.max(heard.end + LINGER_S, start + SHOWN.leastSeconds)
    const room = next ? Math.max(heard.end, next.fixed ? next.heard.start : next.heard.start - EARLY_S) : seconds
    const end =
      next && room - wanted < CLOSED_GAP_S ? Math.min(room, Math.max(heard.end, next.heard.start)) : Math.min(wanted, room)
    return { start, end: Math.max(end, start + SHORTEST_S) }
  })
}

/** Gives drafts the times of captions that said the same before. */
function keepTimes(drafts: Draft[], before: readonly StoredCue[], takeId: string) {
  let from = 0
  for (const draft of drafts) {
    const at = before.findIndex((cue, i) => i >= from && cue.takeId === takeId && cue.text === draft.text)
    if (at < 0) continue
    from = at + 1
    Object.assign(draft, { heard: { start: before[at]!.start, end: before[at]!.end }, fixed: true })
  }
}

/** Drafts that nothing is known of share what lies between their neighbours, by length. */
function placeUnheard(drafts: readonly Draft[], seconds: number): (Draft & { heard: NonNullable<Draft['heard']> })[] {
  return drafts.map((draft, i) => {
    if (draft.heard) return { ...draft, heard: draft.heard }
    const first = drafts.findLastIndex((d, j) => j < i && d.heard !== null) + 1
    const after = drafts.findIndex((d, j) => j > i && d.heard !== null)
    const run = drafts.slice(first, after < 0 ? drafts.length : after)
    const letters = (list: readonly Draft[]) => list.reduce((sum, d) => sum + d.text.length + 1, 0)
    const from = drafts[first - 1]?.heard?.end ?? 0
    const to = Math.max(
      after < 0 ? Math.min(seconds, from + SHOWN.leastSeconds * run.length) : drafts[after]!.heard!.start,
      from + SHORTEST_S,
    )
    const share = (n: number) => from + ((to - from) * letters(run.slice(0, n))) / letters(run)
    return { ...draft, heard: { start: share(i - first), end: share(i - first + 1) }, needsReview: true, fixed: true }
  })
}

/**
 * Makes the captions of a take. Sentences whose captions were changed by hand keep those; what was timed by hand in this take
 * keeps its times, everything else stands where its words are heard, or is spread over the speech while nobody knows.
 *
 * @param before the captions the slide has had, in order
 * @returns cues in take time, in order, not overlapping but where somebody set them so; sentences that were not said have none
 */
export function makeCues(material: CueMaterial, before: readonly StoredCue[]): MadeCue[] {
  const { script, language, takeId, seconds, alignment, speech, unsure } = material
  const options = { language, lineCharacters: material.lineCharacters || LINE_CHARACTERS.usual }
  const said = alignment ? alignment.sentences.map((s) => s.text) : sentences(script, language)
  const drafts = unitsOf(said, before, options).flatMap((unit): Draft[] => {
    const scriptText = said.slice(unit.from, unit.to).join(' ')
    const aligned = alignment?.sentences.slice(unit.from, unit.to) ?? null
    if (unit.byHand) return draftByHand(unit, scriptText, takeId, aligned ? heardWords(aligned) : [])
    if (!aligned) return draftAlone(scriptText, piecesOf(scriptText, language), unsure, options)
    const heard = aligned.filter((sentence) => finalUtterance(sentence))
    // another language's voice misses sentences that were said: they are shown between those beside them
    const pieces = (unsure ? aligned : heard).flatMap((s) =>
      piecesOf(s.text, language, finalUtterance(s) ? heardWords([s]) : undefined),
    )
    return pieces.length === 0 ? [] : draftAlone(scriptText, pieces, unsure || heard.some((s) => s.needsReview), options)
  })
  if (!alignment && material.wereFound) keepTimes(drafts, before, takeId)
  const placed = alignment || drafts.some((draft) => draft.heard) ? placeUnheard(drafts, seconds) : null
  const spans = placed
    ? timed(
        placed.sort((a, b) => a.heard.start - b.heard.start),
        seconds,
      )
    : spreadOverSpeech(
        drafts.map((draft) => draft.text),
        speech,
      )
  const made = (placed ?? drafts).flatMap((draft, i): MadeCue[] => {
    const span = draft.fixed ? draft.heard : spans[i]
    if (!span) return []
    const { text, scriptText, manualEdit, needsReview, markup, settings } = draft
    return [{ takeId, start: span.start, end: span.end, text, scriptText, manualEdit, needsReview, markup, settings }]
  })
  // what somebody captioned beside the script stays, with the take it was said in; a draft that nobody has checked gives way to a script
  const isDraft = (cue: StoredCue) => cue.manualEdit === 'heard' && script.trim() !== ''
  const beside = before.filter((cue) => cue.scriptText === '' && cue.manualEdit !== null && !isDraft(cue))
  return [...made, ...beside.map(({ id: _, slideId: __, ...cue }) => cue)].sort((a, b) => a.start - b.start)
}
