/** Names of languages, in the reader's. */
import { locale } from './say.ts'

/** @returns the name of a language by its tag (BCP 47); the tag where it has none */
export function languageName(language: string): string {
  try {
    return new Intl.DisplayNames(locale(), { type: 'language' }).of(language) ?? language
  } catch {
    return language
  }
}
