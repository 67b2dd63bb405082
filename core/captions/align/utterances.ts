/** The utterances of sentences that a path went through, and what of it is none. */
import { unlikeness } from './dtw-distance.ts'
import { FRAMES_A_SECOND } from './features.ts'
import type { Reference } from './reference.ts'
import type { Run } from './runs.ts'
import type { Path, WordSpan } from './traceback.ts'

/** What is said again sounds like what was said before; between what `unlikeness` measured of the same words and of others. */
const MOST_UNLIKE = 0.43
/** Strange things this near to each other are one. Frames. */
const ONE_EXTRA = 0.2 * FRAMES_A_SECOND
/** A strange beginning this short, without a rest after it and with one before it, is that of the sentence: its first word fits badly. Frames. */
const LONGEST_HEAD = 0.9 * FRAMES_A_SECOND
const NO_REST = 0.05 * FRAMES_A_SECOND
const REST = 0.2 * FRAMES_A_SECOND

interface Group {
  sentence: number
  words: WordSpan[]
}

export interface Utterance extends Group {
  /** 0 to 1. */
  confidence: number
}

/** Consecutive words of one sentence, from its first word on. */
function groupSpans(path: Path, reference: Reference): Group[] {
  const groups: Group[] = []
  for (const span of path.words) {
    const { sentence } = reference.words[span.word]!
    const last = groups.at(-1)
    if (!last || last.sentence !== sentence || reference.sentences[sentence]!.first === span.word)
      groups.push({ sentence, words: [{ ...span }] })
    else last.words.push({ ...span })
  }
  return groups
}

/** How much slower than the reference a sentence was said. */
export const spokenRate = (words: readonly WordSpan[], reference: Reference) =>
  words.reduce((sum, w) => sum + w.end - w.start, 0) /
  Math.max(
    1,
    words.reduce((sum, { word }) => sum + reference.words[word]!.end - reference.words[word]!.start, 0),
  )

/** Mean cost of a span's words, each frame counted once. */
function spanCost(words: readonly WordSpan[]): number {
  const frames = words.reduce((sum, w) => sum + w.end - w.start, 0)
  return words.reduce((sum, w) => sum + w.cost * (w.end - w.start), 0) / Math.max(1, frames)
}

/** Gives the end of a strange stretch to the utterance whose beginning it is. @returns what is left of it */
function withoutHead(stretch: Run, spans: readonly Utterance[], active: Uint8Array): Run {
  const next = spans.find(({ words }) => words[0]!.start >= stretch.end)?.words[0]
  if (!next || next.start - stretch.end > NO_REST) return stretch
  // back to the last rest
  let from = stretch.end
  let quiet = 0
  for (let n = stretch.end - 1; n >= 0 && quiet < REST && stretch.end - from <= LONGEST_HEAD; n--) {
    quiet = active[n] ? 0 : quiet + 1
    if (active[n]) from = n
  }
  if (stretch.end - from > LONGEST_HEAD || from < stretch.start - NO_REST) return stretch
  next.start = from
  return { start: stretch.start, end: Math.max(stretch.start, from) }
}

/** A piece of a sentence this short, this far from the rest of it and this near to another sentence, may be a piece of that one. Frames. */
const [SHORT_PIECE, LONG_REST, NEAR] = [0.6 * FRAMES_A_SECOND, 0.25 * FRAMES_A_SECOND, 0.08 * FRAMES_A_SECOND]

/** Whether a few words of an utterance stand beside another utterance and not with the rest of their own. */
export function isTorn(words: readonly WordSpan[], other: readonly WordSpan[]): boolean {
  const [first, last] = [words[0]!, words.at(-1)!]
  const [theirs] = other
  const after = theirs!.start >= last.end
  const distance = after ? theirs!.start - last.end : first.start - other.at(-1)!.end
  if (distance > NEAR) return false
  return words.slice(1).some((word, i) => {
    const before = words[i]!
    const piece = after ? last.end - word.start : before.end - first.start
    return word.start - before.end >= LONG_REST && piece <= SHORT_PIECE
  })
}

/** Strange speech that is at least one part in so many of a saying's length may be what was meant, unless the confidence is above the other. */
const [RIVAL_LENGTH, SURELY_IT] = [1.3, 0.8]

/**
 * Whether something strange beside an utterance may be the sentence, and the utterance something like it.
 *
 * @param before the utterance before it, if any @param after the one after it
 * @param strange where somebody speaks and no utterance is
 */
export function hasCompetingSegment(
  utterance: Utterance,
  before: Utterance | undefined,
  after: Utterance | undefined,
  strange: readonly Run[],
): boolean {
  if (utterance.confidence >= SURELY_IT) return false
  const { start, end } = runOf(utterance.words)
  const [from, to] = [before ? runOf(before.words).end : 0, after ? runOf(after.words).start : Number.POSITIVE_INFINITY]
  return strange.some((s) => s.end - s.start > (end - start) / RIVAL_LENGTH && s.start > from - NO_REST && s.end < to + NO_REST)
}

const runOf = (words: readonly WordSpan[]) => ({ start: words[0]!.start, end: words.at(-1)!.end })

/**
 * The utterances of the path without those that are something else: they become strange.
 *
 * @param heard the recording
 * @param confidenceOf what a mean cost of words is worth
 */
export function onlySayings(
  path: Path,
  reference: Reference,
  heard: { features: Float32Array; active: Uint8Array },
  confidenceOf: (cost: number) => number,
): { spans: Utterance[]; strange: Path['offScript'] } {
  const utterances = groupSpans(path, reference).map((group) => ({ ...group, confidence: confidenceOf(spanCost(group.words)) }))
  const isWhole = ({ sentence, words }: Utterance) => words.at(-1)!.word === reference.sentences[sentence]!.end - 1
  /** The surest utterance, a whole one where there is one, is what the others of its sentence have to sound like, as far as they go. */
  const isSaid = (utterance: Utterance) => {
    const all = utterances.filter(({ sentence }) => sentence === utterance.sentence)
    const surest = (all.some(isWhole) ? all.filter(isWhole) : all).reduce((best, other) =>
      other.confidence > best.confidence ? other : best,
    )
    if (surest === utterance) return true
    const shared = Math.min(utterance.words.length, surest.words.length)
    const [own, sure] = [runOf(utterance.words.slice(0, shared)), runOf(surest.words.slice(0, shared))]
    return (unlikeness(heard.features, heard.active, own, sure) ?? 0) <= MOST_UNLIKE
  }
  const spans = utterances.filter(isSaid)
  const others = utterances.filter((utterance) => !spans.includes(utterance))
  const strange: Path['offScript'] = []
  for (const stretch of [...path.offScript, ...others.map(({ words }) => runOf(words))].sort((a, b) => a.start - b.start)) {
    const last = strange.at(-1)
    if (last && stretch.start <= last.end + ONE_EXTRA) last.end = Math.max(last.end, stretch.end)
    else strange.push({ ...stretch })
  }
  return { spans, strange: strange.map((stretch) => withoutHead(stretch, spans, heard.active)) }
}
