/** What no shipped font can draw, as a sentence for the person. */
import type { Drawing } from '#core/deck/deck.ts'
import { undrawableIn } from './fonts.ts'

const MOST_NAMED = 12

/** @returns a sentence where characters of a text cannot be drawn; null where all can */
export function undrawableSentence(text: string): string | null {
  const missing = undrawableIn(text)
  if (missing.length === 0) return null
  const named = missing.slice(0, MOST_NAMED).map((character) => {
    const code = `U+${character.codePointAt(0)!.toString(16).toUpperCase().padStart(4, '0')}`
    return /\p{Co}/u.test(character) ? code : `${character} (${code})`
  })
  const count = missing.length === 1 ? '1 character' : `${missing.length} characters`
  const more = missing.length > MOST_NAMED ? ', …' : ''
  return `${count} cannot be drawn: ${named.join(', ')}${more}. Put a picture of the slide in its place, or write it otherwise.`
}

/** All that a drawing writes. */
export const textOfDrawing = ({ items }: Pick<Drawing, 'items'>): string =>
  items
    .flatMap((item) => (item.kind === 'shape' ? (item.text?.paragraphs ?? []) : []))
    .flatMap(({ runs, bullet }) => [...runs.map((run) => run.text), bullet ?? ''])
    .join('')
