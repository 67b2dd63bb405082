/** Captions drawn into the picture, with the font that ships with the app. */
import { createCanvas } from '@napi-rs/canvas'
import type { Style } from '#server/text/fonts.ts'
import { drawLine, linesOf, shapeText } from '#server/text/layout.ts'

/** Heights as shares of the picture's. Common practice, no published source: a line of captions is about a twentieth. */
const LETTER = 0.046
const LINE = 1.28
const PADDING = { x: 0.022, y: 0.011 }
const RADIUS = 0.008
const WIDEST = 0.9

const LETTERS: Style = { size: 100, weight: 500, italic: false, face: 'reading' }

/**
 * @param language of the caption (BCP 47), where it is known
 * @returns a PNG with the caption in its box, nothing around it; `width` and `height` are those of the picture it goes into
 */
export function drawCaption(
  text: string,
  width: number,
  height: number,
  language?: string,
): { png: Buffer; width: number; height: number } {
  const measure = createCanvas(1, 1).getContext('2d')
  const shaped = text.split('\n').map((line) => shapeText(measure, [{ text: line, style: LETTERS }], 'auto', language))
  const linesAt = (letter: number) =>
    shaped.map((line) => linesOf(line, Number.POSITIVE_INFINITY, Number.POSITIVE_INFINITY, letter / LETTERS.size)[0]!)
  const widestAt = (letter: number) => Math.max(...linesAt(letter).map((line) => line.width))
  let letter = height * LETTER
  const room = width * WIDEST - 2 * height * PADDING.x
  if (widestAt(letter) > room) letter *= room / widestAt(letter)
  const [padX, padY] = [height * PADDING.x, height * PADDING.y]
  const lines = linesAt(letter)
  const box = { width: Math.ceil(widestAt(letter) + 2 * padX), height: Math.ceil(lines.length * letter * LINE + 2 * padY) }
  const canvas = createCanvas(box.width, box.height)
  const context = canvas.getContext('2d')
  context.fillStyle = 'rgba(29, 42, 46, 0.92)'
  context.beginPath()
  context.roundRect(0, 0, box.width, box.height, height * RADIUS)
  context.fill()
  context.fillStyle = '#f8f5ee'
  context.textBaseline = 'alphabetic'
  for (const [i, line] of lines.entries())
    drawLine(context, line, (box.width - line.width) / 2, padY + letter * (LINE * i + LINE * 0.76), letter / LETTERS.size)
  return { png: canvas.toBuffer('image/png'), ...box }
}
