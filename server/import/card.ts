/** Text slides: a heading and a line in the product's own colours, drawn at the size that is published. */

import { createCanvas } from '@napi-rs/canvas'
import type { Card } from '#core/model/slide.ts'
import type { Message } from '#core/words/say.ts'
import type { Style } from '#server/text/fonts.ts'
import { drawLine, linesOf, type SetLine, shapeText } from '#server/text/layout.ts'
import { undrawableProblem } from '#server/text/undrawable.ts'

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

/** What of a text slide cannot be drawn, one sentence at the most. */
export function cardWarnings({ heading, line }: Card): Message[] {
  const sentence = undrawableProblem(heading + line)
  return sentence ? [sentence] : []
}

const letters = (size: number, weight: number): Style => ({ size, weight, italic: false, face: 'reading' })

/** @param language of the text, where it is known (BCP 47) @returns a PNG file of 1920 × 1080 pixels */
export function drawCard(card: Card, language?: string): Uint8Array {
  const canvas = createCanvas(WIDTH, HEIGHT)
  const context = canvas.getContext('2d')
  const colours = COLOURS[card.colours]
  const width = WIDTH - LEFT - RIGHT
  context.fillStyle = colours.ground
  context.fillRect(0, 0, WIDTH, HEIGHT)
  context.textBaseline = 'alphabetic'

  // the heading becomes smaller until it needs no more than four lines and no word is wider than the slide
  const shaped = shapeText(context, [{ text: card.heading, style: letters(HEADING.size, HEADING.weight) }], 'auto', language)
  let size = HEADING.size
  let heading: SetLine<Style>[] = []
  for (; size >= HEADING.smallest; size -= 8) {
    heading = linesOf(shaped, width, width, size / HEADING.size)
    if (heading.length <= 4 && heading.every((line) => line.width <= width)) break
  }
  size = Math.max(size, HEADING.smallest)
  const line = shapeText(context, [{ text: card.line, style: letters(LINE.size, LINE.weight) }], 'auto', language)
  const below = card.line === '' ? [] : linesOf(line, width, width, 1)
  const headingHeight = heading.length * size * 1.16
  const height = headingHeight + (below.length > 0 ? 70 + below.length * LINE.size * 1.4 : 0)
  let y = (HEIGHT - height) / 2

  // all of it stands at the side where its heading begins
  const { rightToLeft } = shaped
  const placeOf = (set: SetLine<Style>) => (rightToLeft ? WIDTH - LEFT - set.width : LEFT)
  context.fillStyle = colours.rule
  context.fillRect(rightToLeft ? WIDTH - LEFT + 50 : LEFT - 60, y + size * 0.12, 10, height - size * 0.1)
  context.fillStyle = colours.heading
  for (const set of heading) {
    drawLine(context, set, placeOf(set), y + size * 0.9, size / HEADING.size)
    y += size * 1.16
  }
  y += 70
  context.fillStyle = colours.line
  for (const set of below) {
    drawLine(context, set, placeOf(set), y + LINE.size * 0.6, 1)
    y += LINE.size * 1.4
  }
  return new Uint8Array(canvas.toBuffer('image/png'))
}
