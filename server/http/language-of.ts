/** In which language somebody is answered. */
import type { Context } from 'hono'
import { accepts } from 'hono/accepts'
import { type Language, languageFor } from '#core/words/languages.ts'

/** @returns the language that the browser wants most, of those of the product */
export function languageOf(c: Context): Language {
  let language = languageFor([])
  accepts(c, {
    header: 'Accept-Language',
    supports: [],
    default: language,
    match(wanted) {
      language = languageFor(wanted.toSorted((a, b) => b.q - a.q).map(({ type }) => type))
      return language
    },
  })
  return language
}
