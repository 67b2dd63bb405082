/** Captions drawn into the picture, with the font that ships with the app. */
import { createCanvas } from '@napi-rs/canvas'
import { readingFont } from '#server/import/fonts.ts'

/** Heights as shares of the picture's. Common practice, no published source: a line of captions is about a twentieth. */
const LETTER = 0.046
const LINE = 1.28
const PADDING = { x: 0.022, y: 0.011 }
const RADIUS = 0.008
const WIDEST = 0.9

/** @returns a PNG with the caption in its box, nothing around it; `width` and `height` are those of the picture it goes into */
export function drawCaption(text: string, width: number, height: number): { png: Buffer; width: number; height: number } {
  const lines = text.split('\n')
  const measure = createCanvas(1, 1).getContext('2d')
  let letter = height * LETTER
  const font = () => `500 ${letter}px ${readingFont()}`
  const widest = () => {
    measure.font = font()
    return Math.max(...lines.map((line) => measure.measureText(line).width))
  }
  const room = width * WIDEST - 2 * height * PADDING.x
  if (widest() > room) letter *= room / widest()
  const [padX, padY] = [height * PADDING.x, height * PADDING.y]
  const box = { width: Math.ceil(widest() + 2 * padX), height: Math.ceil(lines.length * letter * LINE + 2 * padY) }
  const canvas = createCanvas(box.width, box.height)
  const context = canvas.getContext('2d')
  context.fillStyle = 'rgba(29, 42, 46, 0.92)'
  context.beginPath()
  context.roundRect(0, 0, box.width, box.height, height * RADIUS)
  context.fill()
  context.font = font()
  context.fillStyle = '#f8f5ee'
  context.textAlign = 'center'
  context.textBaseline = 'alphabetic'
  for (const [i, line] of lines.entries()) context.fillText(line, box.width / 2, padY + letter * (LINE * i + LINE * 0.76))
  return { png: canvas.toBuffer('image/png'), ...box }
}
