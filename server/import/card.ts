/** Text slides: a heading and a line in the product's own colours, drawn at the size that is published. */
import { createCanvas, type SKRSContext2D } from '@napi-rs/canvas'
import type { Card } from '#core/model/slide.ts'
import { readingFont } from './fonts.ts'

const WIDTH = 1920
const HEIGHT = 1080
const LEFT = 200
const RIGHT = 200
const HEADING = { size: 104, smallest: 56, weight: 600 }
const LINE = { size: 46, weight: 400 }

/** Pairs of at least 7 to 1: text on a picture cannot be enlarged by the learner. */
const COLOURS: Record<Card['colours'], { ground: string; heading: string; line: string; rule: string }> = {
  paper: { ground: '#F8F5EE', heading: '#1D2A2E', line: '#3A484C', rule: '#17594A' },
  ink: { ground: '#1D2A2E', heading: '#F8F5EE', line: '#DAD5C8', rule: '#D9A35B' },
  spruce: { ground: '#134A3D', heading: '#F8F5EE', line: '#DDE8E1', rule: '#D9A35B' },
  ochre: { ground: '#F3E4CC', heading: '#46290A', line: '#5A3710', rule: '#A8660F' },
}

/** Words in lines that fit; a word longer than a line stands alone. */
function linesOf(context: SKRSContext2D, text: string, width: number): string[] {
  const lines: string[] = []
  for (const word of text.split(/\s+/)) {
    const last = lines.at(-1)
    if (last !== undefined && context.measureText(`${last} ${word}`).width <= width) lines[lines.length - 1] = `${last} ${word}`
    else lines.push(word)
  }
  return lines
}

/** @returns a PNG file of 1920 × 1080 pixels */
export function drawCard(card: Card): Uint8Array {
  const canvas = createCanvas(WIDTH, HEIGHT)
  const context = canvas.getContext('2d')
  const colours = COLOURS[card.colours]
  const width = WIDTH - LEFT - RIGHT
  context.fillStyle = colours.ground
  context.fillRect(0, 0, WIDTH, HEIGHT)
  context.textBaseline = 'alphabetic'

  // the heading becomes smaller until it needs no more than four lines and no word is wider than the slide
  let size = HEADING.size
  let heading: string[] = []
  for (; size >= HEADING.smallest; size -= 8) {
    context.font = `${HEADING.weight} ${size}px ${readingFont()}`
    heading = linesOf(context, card.heading, width)
    if (heading.length <= 4 && heading.every((line) => context.measureText(line).width <= width)) break
  }
  size = Math.max(size, HEADING.smallest)
  context.font = `${LINE.weight} ${LINE.size}px ${readingFont()}`
  const below = card.line === '' ? [] : linesOf(context, card.line, width)
  const headingHeight = heading.length * size * 1.16
  const height = headingHeight + (below.length > 0 ? 70 + below.length * LINE.size * 1.4 : 0)
  let y = (HEIGHT - height) / 2

  context.fillStyle = colours.rule
  context.fillRect(LEFT - 60, y + size * 0.12, 10, height - size * 0.1)
  context.fillStyle = colours.heading
  context.font = `${HEADING.weight} ${size}px ${readingFont()}`
  for (const line of heading) {
    context.fillText(line, LEFT, y + size * 0.9)
    y += size * 1.16
  }
  y += 70
  context.fillStyle = colours.line
  context.font = `${LINE.weight} ${LINE.size}px ${readingFont()}`
  for (const line of below) {
    context.fillText(line, LEFT, y + LINE.size * 0.6)
    y += LINE.size * 1.4
  }
  return new Uint8Array(canvas.toBuffer('image/png'))
}
