/** In which language a text is written. */
import { Language } from '#core/language-tag.ts'
import { bareLanguage } from './language-tags.ts'

/** Fewer letters than these read like many languages. */
const LEAST_LETTERS = 40
/** How much likelier the best language must be than the next. */
const CLEARLY = 1.3
/** So much of a text says which language it is in. */
const READ = 5000

/** @returns the language that a text reads like (BCP 47, without a region); null where nothing can be said */
export async function languageOfText(text: string): Promise<string | null> {
  if (text.replace(/[^\p{L}]/gu, '').length < LEAST_LETTERS) return null
  // some 130 kB, and wanted by few
  const { detectAll } = await import('tinyld')
  const [best, next] = detectAll(text.slice(0, READ))
  const isClear = best !== undefined && best.accuracy > CLEARLY * (next?.accuracy ?? 0)
  return isClear && Language.safeParse(best.lang).success ? best.lang : null
}

/**
 * The language of a lecture. What a deck says of itself is often only the language of the program that it was written with: where its text
 * clearly reads otherwise, the text is believed.
 *
 * @param told by the deck; @param read out of its text; @param usual where neither says anything
 */
export function lectureLanguage(told: string | null, read: string | null, usual: string): string {
  if (read === null) return told ?? usual
  // one with its region is not less right than the bare one
  return [told, usual].find((tag) => tag !== null && bareLanguage(tag) === bareLanguage(read)) ?? read
}

/** What is said most, of tags and the letters that are marked with each; null where nothing is marked. */
export function mostSaid(letters: ReadonlyMap<string, number>): string | null {
  const known = [...letters].filter(([tag]) => Language.safeParse(tag).success && tag !== 'zxx' && tag !== 'und')
  return known.sort(([, a], [, b]) => b - a)[0]?.[0] ?? null
}
