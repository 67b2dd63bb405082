/** What no shipped font can draw, as the person is told. */

import type { Drawing } from '#core/deck/deck.ts'
import { charactersNamed } from '#core/words/characters.ts'
import { type Message, message } from '#core/words/say.ts'
import { undrawableIn } from './fonts.ts'

/** @returns what to say where characters of a text cannot be drawn; null where all can */
export function undrawableProblem(text: string): Message | null {
  const missing = undrawableIn(text)
  if (missing.length === 0) return null
  const named = charactersNamed(missing)
  return message(
    '{count, plural, one {# character} other {# characters}} cannot be drawn: {named}. Put a picture of the slide in its place, or write it otherwise.',
    { count: missing.length, named },
  )
}

/** All that a drawing writes. */
export const textOfDrawing = ({ items }: Pick<Drawing, 'items'>): string =>
  items
    .flatMap((item) => (item.kind === 'shape' ? (item.text?.paragraphs ?? []) : []))
    .flatMap(({ runs, bullet }) => [...runs.map((run) => run.text), bullet ?? ''])
    .join('')
