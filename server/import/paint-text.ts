/** Paints the text of a slide into its box: paragraphs from either side, lines that fit, letters of any script. */
import type { SKRSContext2D } from '@napi-rs/canvas'
import type { Paragraph, TextBox, TextRun } from '#core/deck/deck.ts'
import { FACES } from '#server/text/families.ts'
import type { Style } from '#server/text/fonts.ts'
import { drawLine, linesOf, type Piece, type SetLine, type ShapedText, shapeText } from '#server/text/layout.ts'

type Context = SKRSContext2D
/** Text that is too high for its box is made smaller in these steps, down to a size that can still be read. */
const SHRINK = 0.98
const SMALLEST = 0.25
/** Boxes are often as wide as their text, to the last digit of a program that rounds otherwise. */
const ROUNDING_PX = 0.5
/** What stands between a bullet and text that has no room for one, as a share of its size. */
const BULLET_GAP = 0.35

type RunStyle = Style & { run: TextRun }

const styleOf = (run: TextRun): RunStyle => ({
  size: run.size,
  weight: run.bold ? 700 : 400,
  italic: run.italic,
  face: run.face,
  run,
})

interface ShapedParagraph {
  paragraph: Paragraph
  text: ShapedText<RunStyle>
  bullet: ShapedText<RunStyle> | null
}

interface SetParagraph extends ShapedParagraph {
  lines: SetLine<RunStyle>[]
  before: number
  /** Of a line: how high it is, and its base from its top. */
  measure(line: SetLine<RunStyle>): { high: number; base: number }
}

function shapeParagraphs(context: Context, { paragraphs }: TextBox, language: string): ShapedParagraph[] {
  return paragraphs.map((paragraph) => {
    const direction = paragraph.rightToLeft ? 'rtl' : 'ltr'
    const runs = paragraph.runs.map((run) => ({ text: run.text, style: styleOf(run) }))
    const first = paragraph.runs[0]!
    const size = first.size * paragraph.bulletSize
    const bullet = {
      ...first,
      size,
      italic: false,
      underline: false,
      strike: false,
      raise: 0,
      colour: paragraph.bulletColour ?? first.colour,
    }
    return {
      paragraph,
      text: shapeText(context, runs, direction, language),
      bullet:
        paragraph.bullet === null
          ? null
          : shapeText(context, [{ text: paragraph.bullet, style: styleOf(bullet) }], direction, language),
    }
  })
}

/** What stands before the text of a first line. */
const bulletOf = ({ bullet }: ShapedParagraph, scale: number): SetLine<RunStyle> | null =>
  bullet ? linesOf(bullet, Number.POSITIVE_INFINITY, Number.POSITIVE_INFINITY, scale)[0]! : null

/** How far from its side a line's text begins: beside its bullet where that has a room of its own, else after it. */
function startOf(set: ShapedParagraph, line: number, scale: number): number {
  const { left, indent } = set.paragraph
  if (line > 0) return left * scale
  const bullet = bulletOf(set, scale)
  const begins = (left + indent) * scale
  return bullet ? Math.max(left * scale, begins + bullet.width + BULLET_GAP * bullet.size) : begins
}

const stylesOn = ({ pieces, hung, emptyStyle }: SetLine<RunStyle>): RunStyle[] =>
  pieces.length + hung.length > 0 ? [...pieces, ...hung].map(({ style }) => style) : [emptyStyle]

/**
 * How high a line is by its letters, and its base from its top. What the lines of its families have beside their letters is shared above and
 * below.
 *
 * @param spacing a factor, or pixels when negative; @see CSS 2.2, §10.8.1 (leading and half-leading), which has it the same way
 */
function measureOf(line: SetLine<RunStyle>, spacing: number, scale: number): { high: number; base: number } {
  let [above, below] = [0, 0]
  for (const { face, size } of stylesOn(line)) {
    const { ascent, descent, height } = FACES[face].line
    const own = size * scale
    const high = spacing < 0 ? -spacing * scale : height * own * spacing
    const leading = (high - (ascent + descent) * own) / 2
    above = Math.max(above, ascent * own + leading)
    below = Math.max(below, descent * own + leading)
  }
  return { high: above + below, base: above }
}

function layOut(shaped: readonly ShapedParagraph[], wrap: boolean, width: number, scale: number) {
  let [height, widest] = [0, 0]
  const paragraphs = shaped.map((one, i): SetParagraph => {
    const { paragraph } = one
    const room = (line: number) =>
      wrap ? Math.max(20, width - startOf(one, line, scale)) + ROUNDING_PX : Number.POSITIVE_INFINITY
    const lines = linesOf(one.text, room(1), room(0), scale)
    const measure = (line: SetLine<RunStyle>) => measureOf(line, paragraph.lineSpacing, scale)
    const before = i === 0 ? 0 : paragraph.before * scale
    height += before + lines.reduce((sum, line) => sum + measure(line).high, 0) + paragraph.after * scale
    for (const [k, line] of lines.entries()) widest = Math.max(widest, line.width + startOf(one, k, scale))
    return { ...one, lines, before, measure }
  })
  return { paragraphs, height, widest }
}

function paintLine(context: Context, line: SetLine<RunStyle>, x: number, base: number, scale: number) {
  drawLine(context, line, x, base, scale, ({ style, width }: Piece<RunStyle>, at) => {
    const { run } = style
    const size = run.size * scale
    const rise = run.raise * size
    context.fillStyle = run.colour
    const rule = (height: number) => context.fillRect(at, base - rise + height * size, width * scale, Math.max(1, size / 18))
    if (run.underline) rule(0.11)
    if (run.strike) rule(-0.28)
    return rise
  })
}

/** Where a line's left end is. A paragraph that runs to the left begins at the right. */
function placeOf(set: SetParagraph, line: SetLine<RunStyle>, start: number, left: number, room: number): number {
  const { align, rightToLeft } = set.paragraph
  const free = room - start - line.width
  const shift = align === 'center' ? free / 2 : align === 'right' || rightToLeft ? free : 0
  return rightToLeft ? left + shift : left + start + shift
}

function paintBullet(context: Context, set: SetParagraph, line: SetLine<RunStyle>, x: number, base: number, scale: number) {
  const sign = bulletOf(set, scale)
  if (!sign) return
  const { left, indent, rightToLeft } = set.paragraph
  // from where the text begins back to where the bullet does
  const distance = startOf(set, 0, scale) - (left + indent) * scale
  const at = rightToLeft ? x + line.width + distance - sign.width : x - distance
  paintLine(context, sign, at, base, scale)
}

/** Breaks the lines, of letters as small as the text lets them become. */
function setText(shaped: readonly ShapedParagraph[], { wrap, scale, shrinks }: TextBox, roomX: number, roomY: number) {
  let size = scale
  let set = layOut(shaped, wrap, roomX, size)
  const fits = () => set.height <= roomY * 1.02 && (!wrap || set.widest <= roomX * 1.01)
  while (shrinks && !fits() && size > SMALLEST * scale) {
    size *= SHRINK
    set = layOut(shaped, wrap, roomX, size)
  }
  return { ...set, scale: size }
}

/** Where text that is not broken begins: about the middle of its room where it is in the middle, else at its side. */
function unwrappedLeft({ paragraphs }: TextBox, left: number, roomX: number, widest: number): number {
  const align = paragraphs[0]?.align
  return align === 'center' ? left + (roomX - widest) / 2 : align === 'right' ? left + roomX - widest : left
}

/** A line in its place: pixels of the box from its upper left corner. */
export interface PlacedLine {
  paragraph: SetParagraph
  line: SetLine<RunStyle>
  isFirst: boolean
  x: number
  top: number
  high: number
  base: number
}

/** @param language of the text, where it is known @returns its lines, and what its letters were made smaller or larger by */
export function placeText(context: Context, text: TextBox, width: number, height: number, language: string) {
  const { inset, wrap } = text
  const [roomX, roomY] = [width - inset.left - inset.right, height - inset.top - inset.bottom]
  const set = setText(shapeParagraphs(context, text, language), text, roomX, roomY)
  const { scale } = set
  const left = wrap ? inset.left : unwrappedLeft(text, inset.left, roomX, set.widest)
  const room = wrap ? roomX : set.widest
  // what is too high runs over on the side away from which it is anchored
  let y = inset.top + (text.anchor === 'bottom' ? roomY - set.height : text.anchor === 'middle' ? (roomY - set.height) / 2 : 0)
  const lines: PlacedLine[] = []
  for (const paragraph of set.paragraphs) {
    y += paragraph.before
    for (const [i, line] of paragraph.lines.entries()) {
      const { high, base } = paragraph.measure(line)
      const x = placeOf(paragraph, line, startOf(paragraph, i, scale), left, room)
      lines.push({ paragraph, line, isFirst: i === 0, x, top: y, high, base: y + base })
      y += high
    }
    y += paragraph.paragraph.after * scale
  }
  return { lines, scale }
}

/** Paints a text into its box. @param language of the text, where it is known */
export function drawText(context: Context, text: TextBox, width: number, height: number, language: string) {
  context.textBaseline = 'alphabetic'
  const { lines, scale } = placeText(context, text, width, height, language)
  for (const { paragraph, line, isFirst, x, base } of lines) {
    if (paragraph.paragraph.hidden) continue
    if (isFirst) paintBullet(context, paragraph, line, x, base, scale)
    paintLine(context, line, x, base, scale)
  }
}
