/** Paints the text of a slide into its box: paragraphs from either side, lines that fit, letters of any script. */
import type { SKRSContext2D } from '@napi-rs/canvas'
import type { Paragraph, TextBox, TextRun } from '#core/deck/deck.ts'
import type { Style } from '#server/text/fonts.ts'
import { drawLine, linesOf, type Piece, type SetLine, type ShapedText, shapeText } from '#server/text/layout.ts'

type Context = SKRSContext2D
/** Text that is too high for its box is made smaller in these steps, down to a size that can still be read. */
const SHRINK = 0.95
const SMALLEST = 0.4
/** Our fonts set lines a little farther apart than what slides are written in. */
const LINE = 1.17

type RunStyle = Style & { run: TextRun }

const styleOf = (run: TextRun): RunStyle => ({
  size: run.size,
  weight: run.bold ? 700 : 400,
  italic: run.italic,
  serif: run.serif,
  mono: run.mono,
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
  lineHeight(line: SetLine<RunStyle>): number
}

function shapeParagraphs(context: Context, { paragraphs }: TextBox, language: string): ShapedParagraph[] {
  return paragraphs.map((paragraph) => {
    const direction = paragraph.rightToLeft ? 'rtl' : 'ltr'
    const runs = paragraph.runs.map((run) => ({ text: run.text, style: styleOf(run) }))
    const first = paragraph.runs[0]!
    const bullet = { ...first, italic: false, colour: paragraph.bulletColour ?? first.colour }
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

/** How far from its side a line begins. */
const startOf = ({ paragraph }: ShapedParagraph, line: number, scale: number) =>
  (paragraph.left + (line === 0 && paragraph.bullet === null ? paragraph.indent : 0)) * scale

function layOut(shaped: readonly ShapedParagraph[], wrap: boolean, width: number, scale: number) {
  let [height, widest] = [0, 0]
  const paragraphs = shaped.map((one, i): SetParagraph => {
    const { paragraph } = one
    const room = (line: number) => (wrap ? Math.max(20, width - startOf(one, line, scale)) : Number.POSITIVE_INFINITY)
    const lines = linesOf(one.text, room(1), room(0), scale)
    const lineHeight = (line: SetLine<RunStyle>) =>
      paragraph.lineSpacing < 0 ? -paragraph.lineSpacing * scale : line.size * LINE * paragraph.lineSpacing
    const before = i === 0 ? 0 : paragraph.before * scale
    height += before + lines.reduce((sum, line) => sum + lineHeight(line), 0) + paragraph.after * scale
    for (const line of lines) widest = Math.max(widest, line.width + paragraph.left * scale)
    return { ...one, lines, before, lineHeight }
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
function placeOf(set: SetParagraph, line: SetLine<RunStyle>, start: number, left: number, room: number, wrap: boolean): number {
  const { align, rightToLeft } = set.paragraph
  const free = wrap ? room - start - line.width : 0
  const shift = align === 'center' ? free / 2 : align === 'right' || rightToLeft ? free : 0
  return rightToLeft ? left + shift : left + start + shift
}

function paintBullet(context: Context, set: SetParagraph, line: SetLine<RunStyle>, x: number, base: number, side: Side) {
  const { paragraph, bullet } = set
  if (!bullet) return
  const { left, room, scale } = side
  const [sign] = linesOf(bullet, Number.POSITIVE_INFINITY, Number.POSITIVE_INFINITY, scale)
  const distance = (paragraph.left + paragraph.indent) * scale
  const atSide = paragraph.rightToLeft ? left + room - distance - sign!.width : left + distance
  const besideLine = paragraph.rightToLeft
    ? x + line.width - paragraph.indent * scale - sign!.width
    : x + paragraph.indent * scale
  const isAtSide = paragraph.rightToLeft ? paragraph.align !== 'center' : paragraph.align === 'left'
  const at = isAtSide ? atSide : besideLine
  paintLine(context, sign!, Math.min(left + room - sign!.width, Math.max(left, at)), base, scale)
}
interface Side {
  left: number
  room: number
  scale: number
}

/** @param language of the text, where it is known */
export function drawText(context: Context, text: TextBox, width: number, height: number, language: string) {
  const { inset, wrap } = text
  const [roomX, roomY] = [width - inset.left - inset.right, height - inset.top - inset.bottom]
  context.textBaseline = 'alphabetic'
  const shaped = shapeParagraphs(context, text, language)
  let scale = text.scale
  let set = layOut(shaped, wrap, roomX, scale)
  const fits = () => set.height <= roomY * 1.02 && (!wrap || set.widest <= roomX * 1.01)
  while (!fits() && scale > SMALLEST * text.scale) {
    scale *= SHRINK
    set = layOut(shaped, wrap, roomX, scale)
  }
  const left = wrap ? inset.left : Math.min(inset.left, inset.left + (roomX - set.widest) / 2)
  let y = inset.top + (text.anchor === 'bottom' ? roomY - set.height : text.anchor === 'middle' ? (roomY - set.height) / 2 : 0)
  // what is still too high begins at the top of its box
  if (text.anchor !== 'top') y = Math.max(y, Math.min(inset.top, y))
  for (const one of set.paragraphs) {
    y += one.before
    for (const [i, line] of one.lines.entries()) {
      const high = one.lineHeight(line)
      const x = placeOf(one, line, startOf(one, i, scale), left, roomX, wrap)
      const base = y + high / 2 + line.size * 0.35
      if (i === 0) paintBullet(context, one, line, x, base, { left, room: roomX, scale })
      paintLine(context, line, x, base, scale)
      y += high
    }
    y += one.paragraph.after * scale
  }
}
