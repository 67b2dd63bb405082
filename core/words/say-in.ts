/** What is written for somebody else: in the language of what it stands in. */
import { type I18n, type Messages, setupI18n } from '@lingui/core'
import { compileMessage } from '@lingui/message-utils/compileMessage'
import ar from './catalogues/ar.json' with { type: 'json' }
import de from './catalogues/de.json' with { type: 'json' }
import es from './catalogues/es.json' with { type: 'json' }
import fr from './catalogues/fr.json' with { type: 'json' }
import { type Language, languageFor } from './languages.ts'
import { isMessage, type Message } from './say.ts'

/** Messages by their English text, as they stand in the files. */
export const CATALOGUES: Record<Language, Record<string, string>> = { en: {}, de, fr, es, ar }
const speakers = new Map<Language, I18n>()

function speaker(language: Language): I18n {
  const known = speakers.get(language)
  if (known) return known
  const locales = [`${language}-u-nu-latn`]
  const made = setupI18n({ locale: language, locales, messages: { [language]: CATALOGUES[language] as Messages } })
  made.setMessagesCompiler(compileMessage)
  speakers.set(language, made)
  return made
}

/**
 * @param tag of a language (BCP 47); where the product does not speak it, it is said in English
 * @returns the message with its values in place; those that are messages are said in the same language
 */
export function sayIn(tag: string, { id, values = {} }: Message): string {
  const said = Object.entries(values).map(([name, value]) => [name, isMessage(value) ? sayIn(tag, value) : value])
  return speaker(languageFor([tag]))._(id, Object.fromEntries(said))
}

/** How a text of a language runs. */
export function directionOfText(tag: string): 'ltr' | 'rtl' {
  try {
    // the field is newer than the types of it
    const { direction } = (new Intl.Locale(tag) as Intl.Locale & { textInfo: { direction: 'ltr' | 'rtl' } }).textInfo
    return direction
  } catch {
    return 'ltr'
  }
}
