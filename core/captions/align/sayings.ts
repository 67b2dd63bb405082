/** The sayings of sentences that a path went through, and what of it is none. */
import { FRAMES_A_SECOND } from './features.ts'
import type { Reference } from './reference.ts'
import type { Path, WordSpan } from './search.ts'

/** Something else that is taken for a sentence said again fits much worse than the saying beside it. */
const WORSE_THAN_SAID = 0.5
/** Strange things this near to each other are one. Frames. */
const ONE_EXTRA = 0.2 * FRAMES_A_SECOND

interface Group {
  sentence: number
  words: WordSpan[]
}

export interface Saying extends Group {
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
      groups.push({ sentence, words: [span] })
    else last.words.push(span)
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

/**
 * The sayings of the path without those that are something else: they become strange.
 *
 * @param confidenceOf what a mean cost of words is worth
 */
export function onlySayings(
  path: Path,
  reference: Reference,
  confidenceOf: (cost: number) => number,
): { spans: Saying[]; strange: Path['extra'] } {
  const sayings = groupSpans(path, reference).map((group) => ({ ...group, confidence: confidenceOf(spanCost(group.words)) }))
  const isSaid = ({ sentence, confidence }: Saying) =>
    !sayings.some((other) => other.sentence === sentence && other.confidence > confidence + WORSE_THAN_SAID)
  const others = sayings.filter((saying) => !isSaid(saying))
  const strange: Path['extra'] = []
  for (const stretch of [...path.extra, ...others.map(({ words }) => ({ start: words[0]!.start, end: words.at(-1)!.end }))].sort(
    (a, b) => a.start - b.start,
  )) {
    const last = strange.at(-1)
    if (last && stretch.start <= last.end + ONE_EXTRA) last.end = Math.max(last.end, stretch.end)
    else strange.push({ ...stretch })
  }
  return { spans: sayings.filter(isSaid), strange }
}
