/** Words of an EMF file, letter by letter: each as far on as the file says. */
import type { SKRSContext2D } from '@napi-rs/canvas'
import { faceOf } from '#core/deck/faces.ts'
import { canvasFont, fontFor } from '#server/text/fonts.ts'
import type { DeviceState } from './device.ts'

interface Line {
  words: string
  /** On the canvas. */
  at: readonly [number, number]
  /** From logical units to pixels. */
  scale: number
  /** Of what all is turned by, in radians. */
  turn: number
  /** From each letter to the next, in logical units; where it says nothing, as wide as the letter is. */
  steps: readonly number[]
}

export function drawLetters(
  context: SKRSContext2D,
  { letters, textColour, align }: DeviceState,
  { words, at: [x, y], scale, turn, steps }: Line,
) {
  const face = faceOf(letters.family)
  const size = (letters.height < 0 ? -letters.height : letters.height / 1.17) * scale
  const style = { size, weight: letters.weight >= 600 ? 700 : 400, italic: letters.italic, face }
  context.save()
  context.translate(x, y)
  context.rotate(turn - (letters.turn * Math.PI) / 180)
  context.fillStyle = textColour
  context.textBaseline = 'alphabetic'
  const own = [...words].map((letter, i) => {
    context.font = canvasFont(fontFor(letter, face, 'ja'), style)
    return { letter, font: context.font, wide: steps[i] !== undefined ? steps[i]! * scale : context.measureText(letter).width }
  })
  const width = own.reduce((sum, one) => sum + one.wide, 0)
  let at = (align & 6) === 6 ? -width / 2 : (align & 2) === 2 ? -width : 0
  const base = (align & 24) === 24 ? 0 : (align & 8) === 8 ? -size * 0.21 : size * 0.9
  const from = at
  for (const { letter, font, wide } of own) {
    context.font = font
    if (letter.trim() !== '') context.fillText(letter, at, base)
    at += wide
  }
  if (letters.underline) context.fillRect(from, base + size * 0.1, width, Math.max(1, size / 18))
  if (letters.strike) context.fillRect(from, base - size * 0.28, width, Math.max(1, size / 18))
  context.restore()
}
