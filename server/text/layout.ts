/**
 * Text in lines: letters through the fonts that have them, words in the order in which they are read from left to right, lines broken where
 * a language may break them.
 *
 * @see Unicode Standard Annexes 9 (bidirectional algorithm), 14 (line breaking), 29 (letters with their marks)
 */
import type { SKRSContext2D } from '@napi-rs/canvas'
import bidiFactory from 'bidi-js'
import LineBreaker from 'linebreak'
import { canvasFont, type FontFile, fontFor, hanStyleOf, type Style, spaceFontFor } from './fonts.ts'

export interface StyledText<S extends Style> {
  text: string
  style: S
}

/** Letters that are drawn at once: of one style, one font, one direction. */
export interface Piece<S extends Style> {
  text: string
  style: S
  font: FontFile | null
  /** Of the bidirectional algorithm: odd is right to left. */
  level: number
  /** Pixels at the style's own size. */
  width: number
  isSpace: boolean
}

/** What no line is broken in. */
interface Atom<S extends Style> {
  pieces: Piece<S>[]
  /** A new line begins after it, whatever room there is. */
  ends: boolean
  /** Of what ends it: a line on which nothing else stands is as high as that. */
  endStyle: S
}

/** Text that is ready to be set in lines of any width, at any scale. */
export interface ShapedText<S extends Style> {
  atoms: Atom<S>[]
  rightToLeft: boolean
  /** Of a line in which nothing stands. */
  emptyStyle: S
  /** A piece in two, of which the first is as long as fits and at least one letter; null for a single letter. @param room at its own size */
  divide(piece: Piece<S>, room: number): [Piece<S>, Piece<S>] | null
}

export interface SetLine<S extends Style> {
  /** From left to right. */
  pieces: Piece<S>[]
  /** Pixels, scaled. */
  width: number
  /** Largest size of its letters, scaled. */
  size: number
  /** Of a line on which nothing stands. */
  emptyStyle: S
  /** Spaces at its end: they take no room along it, and make it as high as they are. */
  hung: Piece<S>[]
}

export type Direction = 'ltr' | 'rtl' | 'auto'

const bidi = bidiFactory()
const letters = new Intl.Segmenter('en', { granularity: 'grapheme' })
const words = new Intl.Segmenter('th', { granularity: 'word' })
const TAB_WIDTH = 2
/** Hebrew, Arabic and their kind, and what controls directions: without any of them all text runs from left to right. */
const MAY_TURN =
  /[\u0590-\u08ff\u200f\u202a-\u202e\u2066-\u2069\ufb1d-\ufdff\ufe70-\ufeff\u{10800}-\u{10fff}\u{1e800}-\u{1efff}]/u
/** Written without spaces between words, and broken by a dictionary. */
const WITHOUT_SPACES = /[\p{Script=Thai}\p{Script=Lao}\p{Script=Khmer}\p{Script=Myanmar}]+/gu

/** Programs that set text keep "and/or" together, though the standard would let it be broken (LB13). */
const SLASH = /^\/[\p{L}\p{N}]/u

const directionOf = (level: number) => (level % 2 === 1 ? 'rtl' : 'ltr')

/** @returns level of each UTF-16 unit, and whether the paragraph as a whole runs from right to left */
function levelsOf(text: string, direction: Direction): { levels: Uint8Array; rightToLeft: boolean } {
  if (direction !== 'rtl' && !MAY_TURN.test(text)) return { levels: new Uint8Array(text.length), rightToLeft: false }
  // a line that is ended by hand does not end the paragraph
  const one = text.replaceAll('\n', '\u2028')
  const { levels, paragraphs } = bidi.getEmbeddingLevels(one, direction === 'auto' ? undefined : direction)
  return { levels, rightToLeft: ((paragraphs[0]?.level ?? 0) & 1) === 1 }
}

/** Places after which a line may end. `ends`: it must. */
function breaksOf(text: string): { at: number; ends: boolean }[] {
  const found = new Map<number, boolean>()
  const breaker = new LineBreaker(text)
  for (let next = breaker.nextBreak(); next; next = breaker.nextBreak()) {
    const isWithinWord = !next.required && SLASH.test(text.slice(next.position - 1, next.position + 1))
    if (!isWithinWord) found.set(next.position, next.required ?? false)
  }
  for (const { 0: run, index } of text.matchAll(WITHOUT_SPACES))
    for (const { index: within } of words.segment(run))
      if (within > 0 && !found.has(index + within)) found.set(index + within, false)
  // after what was ended by hand at the text's own end a line without letters follows
  found.set(text.length, text.endsWith('\n'))
  return [...found].map(([at, ends]) => ({ at, ends })).sort((a, b) => a.at - b.at)
}

/** @param direction of the paragraph as a whole; 'auto' is that of its first letter @param language where it is known (BCP 47) */
export function shapeText<S extends Style>(
  context: SKRSContext2D,
  runs: readonly StyledText<S>[],
  direction: Direction,
  language?: string,
): ShapedText<S> {
  const text = runs.map((run) => run.text).join('')
  const { levels, rightToLeft } = levelsOf(text, direction)
  const han = hanStyleOf(text, language)
  const ends: number[] = []
  for (const { text: part } of runs) ends.push((ends.at(-1) ?? 0) + part.length)
  const pieceOf = (from: number, to: number, style: S, font: FontFile | null): Piece<S> => {
    const raw = text.slice(from, to)
    const level = levels[from]!
    context.font = canvasFont(font, style)
    context.direction = directionOf(level)
    const width = raw === '\t' ? style.size * TAB_WIDTH : context.measureText(raw).width
    return { text: raw, style, font, level, width, isSpace: raw.trim() === '' }
  }
  let run = 0
  let lastFont: FontFile | null = null
  let endStyle = runs.at(-1)!.style
  /** What stands between two places, in pieces of one look each. */
  const piecesOf = (from: number, to: number): Piece<S>[] => {
    const pieces: Piece<S>[] = []
    let open: { from: number; style: S; font: FontFile | null; level: number; isSpace: boolean } | null = null
    const close = (at: number) => {
      if (open) pieces.push(pieceOf(open.from, at, open.style, open.font))
      open = null
    }
    for (const { segment, index } of letters.segment(text.slice(from, to))) {
      const at = from + index
      while (ends[run]! <= at) run++
      if (segment === '\n' || segment === '\r\n') {
        close(at)
        endStyle = runs[run]!.style
        continue
      }
      const { style } = runs[run]!
      const [level, isSpace] = [levels[at]!, segment.trim() === '']
      // a space is as wide as the letters before it want it to be
      const font = isSpace && lastFont ? spaceFontFor(lastFont) : fontFor(segment, style.face, han)
      if (!isSpace) lastFont = font
      const now = open as { style: S; font: FontFile | null; level: number; isSpace: boolean } | null
      const goesOn =
        now && now.style === style && now.font === font && now.level === level && now.isSpace === isSpace && segment !== '\t'
      if (goesOn) continue
      close(at)
      open = { from: at, style, font, level, isSpace }
    }
    close(to)
    return pieces
  }
  const atoms: Atom<S>[] = []
  let from = 0
  for (const { at, ends: isEnd } of text === '' ? [] : breaksOf(text)) {
    atoms.push({ pieces: piecesOf(from, at), ends: isEnd, endStyle })
    from = at
  }
  const part = (piece: Piece<S>, own: string): Piece<S> => {
    context.font = canvasFont(piece.font, piece.style)
    context.direction = directionOf(piece.level)
    return { ...piece, text: own, width: context.measureText(own).width }
  }
  const divide = (piece: Piece<S>, room: number): [Piece<S>, Piece<S>] | null => {
    const clusters = [...letters.segment(piece.text)].map(({ segment }) => segment)
    if (clusters.length < 2) return null
    let count = 1
    while (count < clusters.length - 1 && part(piece, clusters.slice(0, count + 1).join('')).width <= room) count++
    return [part(piece, clusters.slice(0, count).join('')), part(piece, clusters.slice(count).join(''))]
  }
  return { atoms, rightToLeft, emptyStyle: runs.at(-1)!.style, divide }
}

/** Rule L2: from the highest level to the lowest odd one, what stands at that level or above is turned around. */
function inVisualOrder<S extends Style>(pieces: readonly Piece<S>[]): Piece<S>[] {
  const ordered = [...pieces]
  // a line of strangers may have more pieces than a call may have arguments
  const highest = ordered.reduce((most, piece) => Math.max(most, piece.level), 0)
  for (let level = highest; level > 0; level--) {
    for (let start = 0; start < ordered.length; start++) {
      if (ordered[start]!.level < level) continue
      let end = start
      while (end < ordered.length && ordered[end]!.level >= level) end++
      for (let a = start, b = end - 1; a < b; a++, b--) [ordered[a], ordered[b]] = [ordered[b]!, ordered[a]!]
      start = end
    }
  }
  return ordered
}

/**
 * @param room for a line, pixels; @param firstRoom for the first
 * @param scale of the letters
 */
export function linesOf<S extends Style>(
  { atoms, emptyStyle, divide }: ShapedText<S>,
  room: number,
  firstRoom: number,
  scale: number,
): SetLine<S>[] {
  const lines: SetLine<S>[] = []
  let pieces: Piece<S>[] = []
  let width = 0
  const end = (emptyStyle: S) => {
    // spaces at a line's end take no room
    const hung: Piece<S>[] = []
    while (pieces.at(-1)?.isSpace) {
      const space = pieces.pop()!
      width -= space.width * scale
      hung.push(space)
    }
    const size = pieces.reduce((most, piece) => Math.max(most, piece.style.size), 0) || emptyStyle.size
    lines.push({ pieces: inVisualOrder(pieces), width, size: size * scale, emptyStyle, hung })
    pieces = []
    width = 0
  }
  for (const atom of atoms) {
    const solid = atom.pieces.findLastIndex((piece) => !piece.isSpace) + 1
    const needs = atom.pieces.slice(0, solid).reduce((sum, piece) => sum + piece.width, 0) * scale
    if (solid > 0 && pieces.some((piece) => !piece.isSpace) && width + needs > (lines.length === 0 ? firstRoom : room))
      end(emptyStyle)
    for (const piece of atom.pieces) {
      let rest = piece
      // a word longer than a line goes on in the next
      for (;;) {
        const free = (lines.length === 0 ? firstRoom : room) - width
        if (rest.isSpace || rest.width * scale <= free) break
        const parts = needs > (lines.length === 0 ? firstRoom : room) ? divide(rest, free / scale) : null
        if (!parts) break
        const [fitting, over] = parts
        if (fitting.width * scale > free && pieces.some((one) => !one.isSpace)) {
          end(emptyStyle)
          continue
        }
        pieces.push(fitting)
        width += fitting.width * scale
        end(emptyStyle)
        rest = over
      }
      pieces.push(rest)
      width += rest.width * scale
    }
    if (atom.ends) {
      // what ends a line is as high as it is written, like a space
      pieces.push({ text: '', style: atom.endStyle, font: null, level: 0, width: 0, isSpace: true })
      end(atom.endStyle)
    }
  }
  if (pieces.length > 0 || lines.length === 0 || atoms.at(-1)?.ends) end(emptyStyle)
  return lines
}

/** Draws a line's letters in the colour that the canvas has. @param x of its left end @param base of its letters */
export function drawLine<S extends Style>(
  context: SKRSContext2D,
  line: SetLine<S>,
  x: number,
  base: number,
  scale: number,
  before: (piece: Piece<S>, at: number) => number = () => 0,
) {
  context.textAlign = 'left'
  let at = x
  for (const piece of line.pieces) {
    context.font = canvasFont(piece.font, { ...piece.style, size: piece.style.size * scale })
    context.direction = directionOf(piece.level)
    const rise = before(piece, at)
    if (piece.text !== '\t' && !piece.isSpace) context.fillText(piece.text, at, base - rise)
    at += piece.width * scale
  }
}
