/** Moments of a slide's further pictures by the words that stand on them: a picture that brings a point belongs where the point is spoken of. */
import { type Alignment, finalUtterance } from '#core/captions/align/align.ts'

/** It is there just before its words. Common practice, no published source. */
const EARLY_S = 0.15
/** Words of a picture that are looked at: its beginning is what is spoken of first. */
const MOST_WORDS = 10
/** So many of them, as a share, are said close together. */
const LEAST_SHARE = 0.4
/** Words that a text of so many is spoken with. */
const spread = (words: number) => Math.round(words * 1.6) + 4
/** Words so short say little of what is meant. */
const TELLING_LETTERS = 4

interface SpokenWord {
  word: string
  /** Seconds of the take. */
  start: number
}

const wordsOf = (text: string): string[] =>
  text
    .normalize('NFKD')
    .replace(/\p{M}/gu, '')
    .toLowerCase()
    .match(/[\p{L}\p{N}]+/gu) ?? []

/** Words that tell what a text is about; all of them where it has no longer ones. */
function tellingWords(text: string): string[] {
  const all = wordsOf(text)
  const telling = all.filter((word) => word.length >= TELLING_LETTERS || /\d/.test(word))
  return (telling.length > 0 ? telling : all).slice(0, MOST_WORDS)
}

/** Whether two words are one, or forms of one: their beginnings are the same but for the last letters. */
function isAlike(a: string, b: string): boolean {
  if (a === b) return true
  const shorter = Math.min(a.length, b.length)
  return shorter > TELLING_LETTERS && Math.abs(a.length - b.length) <= 3 && a.slice(0, shorter - 2) === b.slice(0, shorter - 2)
}

const spokenWords = ({ sentences }: Alignment): SpokenWord[] =>
  sentences.flatMap((sentence) =>
    sentence.skipped
      ? []
      : (finalUtterance(sentence)?.words ?? []).flatMap(({ w, start }) => wordsOf(w).map((word) => ({ word, start }))),
  )

/** What share of a picture's words is said from each spoken word on, where that is one of them; 0 elsewhere. */
function sharesFrom(text: string, spoken: readonly SpokenWord[]): number[] {
  const wanted = tellingWords(text)
  if (wanted.length === 0) return spoken.map(() => 0)
  const reach = spread(wanted.length)
  return spoken.map(({ word }, i) => {
    if (!wanted.some((one) => isAlike(one, word))) return 0
    const near = spoken.slice(i, i + reach)
    const found = wanted.filter((one) => near.some((other) => isAlike(one, other.word))).length
    return found / wanted.length
  })
}

/**
 * The places, in the order of the pictures, at which the most of their words are said.
 *
 * @param shares by picture and spoken word @returns index of the spoken word by picture; null for a picture of which too little is said
 */
function bestPlaces(shares: readonly number[][]): (number | null)[] {
  const count = shares[0]?.length ?? 0
  // best[i]: the most that the pictures so far reach with none of them after word i
  let best = new Float64Array(count + 1)
  const chosen: Int32Array[] = []
  for (const own of shares) {
    const next = new Float64Array(count + 1)
    const at = new Int32Array(count + 1).fill(-1)
    for (let i = 1; i <= count; i++) {
      const share = own[i - 1]! >= LEAST_SHARE ? own[i - 1]! : 0
      const here = share > 0 ? best[i - 1]! + share : 0
      next[i] = Math.max(best[i]!, next[i - 1]!)
      at[i] = next[i]! > best[i]! ? at[i - 1]! : -1
      if (share > 0 && here > next[i]! + 1e-9) {
        next[i] = here
        at[i] = i - 1
      }
    }
    chosen.push(at)
    best = next
  }
  const places: (number | null)[] = []
  let until = count
  for (let s = shares.length - 1; s >= 0; s--) {
    const at = chosen[s]![until]!
    places.unshift(at < 0 ? null : at)
    if (at >= 0) until = at
  }
  return places
}

/**
 * @param steps pictures of the slide, the first of which is there from the start; `text` is what is new on each
 * @param alignment where the words of its script are in the take
 * @returns seconds of the take by picture, for those whose words are said, ascending
 */
export function momentsAtWords(steps: readonly { id: string; text: string }[], alignment: Alignment): Record<string, number> {
  const later = steps.slice(1)
  if (later.every(({ text }) => text === '')) return {}
  const spoken = spokenWords(alignment)
  if (spoken.length === 0) return {}
  const places = bestPlaces(later.map(({ text }) => sharesFrom(text, spoken)))
  return Object.fromEntries(
    later.flatMap(({ id }, i) => (places[i] == null ? [] : [[id, Math.max(0, spoken[places[i]!]!.start - EARLY_S)]])),
  )
}
