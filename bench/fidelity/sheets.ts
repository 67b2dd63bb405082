/** Contact sheets of decks, to be looked at: each slide small, its steps beside it, and what was told of it. */
import { mkdirSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { createCanvas, loadImage } from '@napi-rs/canvas'
import { say } from '#core/words/say.ts'
import { canvasFont, fontFor } from '#server/text/fonts.ts'
import type { DrawnDeck } from './draw.ts'

const [COLUMNS, WIDTH, LABEL] = [4, 360, 26]
/** Slides of one sheet. */
const MOST = 20

const font = canvasFont(fontFor('a', 'plain', 'ja'), { size: 14, weight: 400, italic: false, face: 'plain' })

export async function writeSheets(folder: string, deck: DrawnDeck) {
  mkdirSync(folder, { recursive: true })
  const pictures = deck.slides.flatMap(({ pictures: own, warnings }, i) =>
    own.map((png, step) => ({
      png,
      label: `${i + 1}${step > 0 ? `, step ${step}` : ''}${step === 0 ? warnings.map((w) => ` · ${say(w)}`).join('') : ''}`,
    })),
  )
  for (let from = 0; from < pictures.length; from += MOST) {
    const part = pictures.slice(from, from + MOST)
    const ratio = deck.height / deck.width
    const high = Math.round(WIDTH * ratio) + LABEL
    const canvas = createCanvas(COLUMNS * WIDTH, Math.ceil(part.length / COLUMNS) * high)
    const context = canvas.getContext('2d')
    context.fillStyle = '#888888'
    context.fillRect(0, 0, canvas.width, canvas.height)
    for (const [i, { png, label }] of part.entries()) {
      const [x, y] = [(i % COLUMNS) * WIDTH, Math.floor(i / COLUMNS) * high]
      context.drawImage(await loadImage(png), x + 2, y + LABEL, WIDTH - 4, high - LABEL - 2)
      context.fillStyle = '#ffffff'
      context.font = font
      context.save()
      context.beginPath()
      context.rect(x, y, WIDTH - 4, LABEL)
      context.clip()
      context.fillText(label, x + 4, y + 18)
      context.restore()
    }
    writeFileSync(join(folder, `${deck.name.replace(/\W+/g, '-')}-${from / MOST + 1}.png`), canvas.toBuffer('image/png'))
  }
}
