/** Divides text into captions and captions into lines, where a reader would. */
import { segmenter } from '#core/script/segmenter.ts'
import { isQuantity, leans, opensClause } from './function-words.ts'

/** DCMP Captioning Key and BBC Subtitle Guidelines: 32 to 42 characters a line, two lines at most. */
export const LINE_CHARACTERS = { least: 32, usual: 37, most: 42 }
/** BBC Subtitle Guidelines and common practice: a reader follows 15 characters a second with ease and 20 with effort. */
export const READING = { targetCps: 15, mostCps: 20 }
/** DCMP Captioning Key: shown no shorter than about a second, no longer than about six. */
export const SHOWN = { leastSeconds: 1.2, mostSeconds: 6 }

/** What may not be torn apart is torn only where nothing else is left. */
const FORBIDDEN = 1000
/** Each further caption asks for another look. */
const CAPTION_COST = 12

/** The smallest run of text that stays whole: a word, or a part of one in scripts that set no spaces. */
export interface Piece {
  text: string
  /** A space stands before it. */
  spaced: boolean
  /** When it is heard, in seconds; null where that is not known. */
  heard: { start: number; end: number } | null
}

export interface BreakOptions {
  /** BCP 47. */
  language: string
  /** Characters a line; wide ones of East Asian scripts count twice. */
  lineCharacters: number
}

const WIDE = /[\p{Script=Han}\p{Script=Hiragana}\p{Script=Katakana}\p{Script=Hangul}\u3000-\u303F\uFF01-\uFF60]/u
const UNSPACED =
  /[\p{Script=Han}\p{Script=Hiragana}\p{Script=Katakana}\p{Script=Thai}\p{Script=Lao}\p{Script=Khmer}\p{Script=Myanmar}]/u

/** How wide a text is, in characters of a Latin line. */
export function widthOf(text: string): number {
  let width = 0
  for (const { segment } of segmenter('en', 'grapheme').segment(text)) width += WIDE.test(segment) ? 2 : 1
  return width
}

/** Parts of a word without spaces inside; punctuation stays with what is before it, opening brackets with what follows. */
function partsOf(word: string, language: string): string[] {
  if (!UNSPACED.test(word)) return [word]
  const parts: string[] = []
  let opening = ''
  for (const { segment, isWordLike } of segmenter(language, 'word').segment(word)) {
    if (/^[\p{Ps}\p{Pi}]+$/u.test(segment)) opening += segment
    else if (!isWordLike && parts.length > 0 && opening === '') parts[parts.length - 1] += segment
    else {
      parts.push(opening + segment)
      opening = ''
    }
  }
  if (opening) parts.push(opening)
  return parts
}

/**
 * @param text words separated by white space
 * @param heard when each word is heard, by its place; where it is missing nothing is known
 */
export function piecesOf(
  text: string,
  language: string,
  heard: readonly ({ start: number; end: number } | null | undefined)[] = [],
): Piece[] {
  return text
    .split(/\s+/)
    .filter((word) => word !== '')
    .flatMap((word, k) => {
      const parts = partsOf(word, language)
      const time = heard[k] ?? null
      let before = 0
      return parts.map((part, i): Piece => {
        const from = before / word.length
        before += part.length
        const span = time && time.end - time.start
        return {
          text: part,
          spaced: i === 0,
          heard: time && { start: time.start + from * span!, end: time.start + (before / word.length) * span! },
        }
      })
    })
}

/** The text of a run of pieces. */
export function joined(pieces: readonly Piece[]): string {
  return pieces.map((piece, i) => (piece.spaced && i > 0 ? ` ${piece.text}` : piece.text)).join('')
}

/**
 * How bad it is to break between two pieces, 0 and above; from `FORBIDDEN` on they belong together.
 *
 * @see DCMP Captioning Key, "Line division"; BBC Subtitle Guidelines, "Line breaks"
 */
export function breakCost(before: Piece, after: Piece, language: string): number {
  const pause = before.heard && after.heard ? after.heard.start - before.heard.end : 0
  // a speaker who pauses has ended something
  const eased = pause > 0.25 ? 0.4 : 1
  if (/[.!?…。！？]["'”’»）)]*$/.test(before.text)) return 0
  if (/[,;:–—、，；：]["'”’»)]*$/.test(before.text)) return 2 * eased
  if (leans(before.text, language) || isQuantity(before.text, after.text)) return FORBIDDEN
  return (opensClause(after.text) ? 5 : 10) * eased
}

/** Whether two neighbouring pieces may not be torn apart. */
export const isForbidden = (before: Piece, after: Piece, language: string) => breakCost(before, after, language) >= FORBIDDEN

interface Lines {
  cost: number
  /** Where the second line begins; null for one line. */
  second: number | null
}

/** The costs of all runs of pieces that fit one caption, and where their lines break. */
class Layout {
  readonly #pieces: readonly Piece[]
  readonly #limit: number
  readonly #starts: number[]
  readonly #gaps: number[]

  constructor(pieces: readonly Piece[], { language, lineCharacters }: BreakOptions) {
    this.#pieces = pieces
    this.#limit = lineCharacters
    this.#starts = [0]
    for (const [i, piece] of pieces.entries())
      this.#starts.push(this.#starts.at(-1)! + widthOf(piece.text) + (pieces[i + 1]?.spaced ? 1 : 0))
    this.#gaps = pieces.map((piece, i) => (pieces[i + 1] ? breakCost(piece, pieces[i + 1]!, language) : 0))
  }

  width(from: number, to: number): number {
    return this.#starts[to]! - this.#starts[from]! - (this.#pieces[to]?.spaced ? 1 : 0)
  }

  /** @returns null when the run does not fit two lines; a single piece always fits */
  lines(from: number, to: number): Lines | null {
    const width = this.width(from, to)
    if (width <= this.#limit || to - from === 1) return { cost: 0, second: null }
    if (width > 2 * this.#limit + 1) return null
    let best: Lines | null = null
    for (let at = from + 1; at < to; at++) {
      const upper = this.width(from, at)
      const lower = this.width(at, to)
      if (upper > this.#limit || lower > this.#limit) continue
      const uneven = ((upper - lower) / this.#limit) ** 2 * 14
      // the upper line is the shorter one: less of the picture is covered, the eye falls to a longer line
      const cost = this.#gaps[at - 1]! + uneven + (upper > lower ? 1.5 : 0)
      if (!best || cost < best.cost) best = { cost, second: at }
    }
    return best
  }

  caption(from: number, to: number): number | null {
    const lines = this.lines(from, to)
    if (!lines) return null
    const after = to < this.#pieces.length ? this.#gaps[to - 1]! : 0
    // a word alone on the screen is hardly a caption
    const meagre = to - from < this.#pieces.length ? Math.max(0, 24 - this.width(from, to)) * 1.2 : 0
    return CAPTION_COST + lines.cost + after * 1.5 + meagre + this.#timing(from, to)
  }

  #timing(from: number, to: number): number {
    const first = this.#pieces[from]!.heard
    const last = this.#pieces[to - 1]!.heard
    if (!first || !last) return 0
    const next = this.#pieces[to]?.heard
    const shown = Math.max(0.1, (next ? Math.min(next.start, last.end + 0.4) : last.end + 0.4) - first.start)
    const cps = this.width(from, to) / shown
    return (
      Math.max(0, SHOWN.leastSeconds - shown) * 40 +
      Math.max(0, shown - SHOWN.mostSeconds) * 60 +
      Math.max(0, cps - READING.mostCps) * 3 +
      Math.max(0, cps - READING.targetCps) * 0.5
    )
  }
}

export interface CaptionRun {
  /** First piece, and the one after the last. */
  from: number
  to: number
  /** With a line break where the second line begins. */
  text: string
}

/**
 * Divides pieces into captions: the cheapest of all ways, by dynamic programming over the gaps between them.
 *
 * @returns runs in order that together hold every piece; each at most two lines of `lineCharacters`, but for single longer words
 */
export function captionRuns(pieces: readonly Piece[], options: BreakOptions): CaptionRun[] {
  const layout = new Layout(pieces, options)
  const best: { cost: number; from: number }[] = [{ cost: 0, from: 0 }]
  for (let to = 1; to <= pieces.length; to++) {
    let found = { cost: Number.POSITIVE_INFINITY, from: to - 1 }
    for (let from = to - 1; from >= 0; from--) {
      const cost = layout.caption(from, to)
      // what stands further left only makes it longer
      if (cost === null && layout.width(from, to) > 2 * options.lineCharacters + 1) break
      if (cost !== null && best[from]!.cost + cost < found.cost) found = { cost: best[from]!.cost + cost, from }
    }
    best.push(found)
  }
  const runs: CaptionRun[] = []
  for (let to = pieces.length; to > 0; to = best[to]!.from) {
    const { from } = best[to]!
    const second = layout.lines(from, to)?.second ?? null
    const text =
      second === null
        ? joined(pieces.slice(from, to))
        : `${joined(pieces.slice(from, second))}\n${joined(pieces.slice(second, to))}`
    runs.unshift({ from, to, text })
  }
  return runs
}

/** @returns texts of captions, with their line breaks, in order */
export function captionTexts(sentence: string, options: BreakOptions): string[] {
  return captionRuns(piecesOf(sentence, options.language), options).map((run) => run.text)
}

/** @returns the text in at most two lines where it fits them; longer text stays as it is */
export function breakLines(text: string, options: BreakOptions): string {
  const pieces = piecesOf(text, options.language)
  const second = new Layout(pieces, options).lines(0, pieces.length)?.second ?? null
  return second === null ? joined(pieces) : `${joined(pieces.slice(0, second))}\n${joined(pieces.slice(second))}`
}
