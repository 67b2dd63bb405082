/** Names of languages, in the reader's. */
import { locale } from './say.ts'

/** Making one takes a tenth of a millisecond, and a list of languages is put in order by hundreds of looks at names. */
const names = new Map<string, Intl.DisplayNames>()
function namesFor(locales: readonly string[]): Intl.DisplayNames {
  const key = locales.join()
  const made = names.get(key) ?? new Intl.DisplayNames(locales, { type: 'language' })
  names.set(key, made)
  return made
}

/** @returns the name of a language by its tag (BCP 47); the tag where it has none */
export function languageName(language: string): string {
  try {
    return namesFor(locale()).of(language) ?? language
  } catch {
    return language
  }
}
