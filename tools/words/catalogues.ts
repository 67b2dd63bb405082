/** The catalogues of other languages: read, checked against the code, and compiled for a page. */
import { readFileSync } from 'node:fs'
import { compileMessage } from '@lingui/message-utils/compileMessage'
import type { Language } from '#core/words/languages.ts'
import { LANGUAGES } from '#core/words/languages.ts'

export const TRANSLATED = (Object.keys(LANGUAGES) as Language[]).filter((language) => language !== 'en')

export const catalogueFile = (language: Language) => `core/words/catalogues/${language}.json`

/** Translations by their English text. */
export const readCatalogue = (language: Language) =>
  JSON.parse(readFileSync(catalogueFile(language), 'utf8')) as Record<string, string>

type Token = string | [name: string, kind?: string, cases?: Record<string, unknown>]
type Compiled = string | Token[]

/** @throws where the text is no message */
export function compiled(text: string): Compiled {
  const made = compileMessage(text) as Compiled
  // what cannot be read comes back as it is
  if (/[{}]/.test(text) && made.length === 1 && made[0] === text) throw new Error(`“${text}” is no message.`)
  return made
}

/** Names of the values a message wants, and the plural forms it has. */
function wantsOf(made: Compiled): { names: Set<string>; forms: string[][] } {
  const wants = { names: new Set<string>(), forms: [] as string[][] }
  const visit = (tokens: unknown) => {
    if (!Array.isArray(tokens)) return
    for (const token of tokens) {
      if (!Array.isArray(token)) continue
      const [name, kind, cases] = token as Exclude<Token, string>
      wants.names.add(name)
      if (kind !== 'plural' || !cases) continue
      wants.forms.push(Object.keys(cases).filter((form) => form !== 'offset'))
      for (const branch of Object.values(cases)) visit(branch)
    }
  }
  visit(made)
  return wants
}

/** Forms that are for numbers no lecture has, or that may be said as the others are. */
const SPARED: Partial<Record<Language, string[]>> = { fr: ['many'], es: ['many'], ar: ['zero'] }

/** What is wrong with a translation; empty where it can be used. */
export function faultsOf(language: Language, english: string, translation: string): string[] {
  if (translation.trim() === '') return ['nothing is written']
  const [wanted, has] = [wantsOf(compiled(english)), wantsOf(compiled(translation))]
  const faults: string[] = []
  for (const name of wanted.names) if (!has.names.has(name)) faults.push(`{${name}} is missing`)
  for (const name of has.names) if (!wanted.names.has(name)) faults.push(`{${name}} is not in the English text`)
  const needed = new Intl.PluralRules(language)
    .resolvedOptions()
    .pluralCategories.filter((form) => !SPARED[language]?.includes(form))
  for (const forms of has.forms)
    for (const form of needed) if (!forms.includes(form)) faults.push(`the plural form “${form}” is missing`)
  return faults
}

const ACCENTS: Record<string, string> = {
  a: 'á',
  e: 'é',
  i: 'î',
  o: 'ö',
  u: 'ü',
  A: 'Å',
  E: 'É',
  I: 'Î',
  O: 'Ø',
  U: 'Û',
  c: 'ç',
  n: 'ñ',
  y: 'ý',
}
const LONGER_BY = 0.4

/** The text with accents, and longer by two fifths: as another language may be, and legible. */
function pseudo(tokens: Compiled): Compiled {
  const accented = (text: string) => text.replace(/[a-zA-Z]/g, (letter) => ACCENTS[letter] ?? letter)
  const longer = (text: string) => `${accented(text)}${'·'.repeat(Math.ceil(text.trim().length * LONGER_BY))}`
  if (typeof tokens === 'string') return longer(tokens)
  return tokens.map((token): Token => {
    if (typeof token === 'string') return /[a-zA-Z]{2}/.test(token) ? longer(token) : token
    const [name, kind, cases] = token
    if (kind !== 'plural' || !cases) return token
    const branches = Object.entries(cases).map(([form, branch]) => [
      form,
      form === 'offset' ? branch : pseudo(branch as Compiled),
    ])
    return [name, kind, Object.fromEntries(branches)]
  })
}

/**
 * A catalogue as a page loads it.
 *
 * @param language or `pseudo`, by which layouts are tried
 */
export function compiledCatalogue(language: Language | 'pseudo', messages: Iterable<string>): Record<string, Compiled> {
  if (language === 'pseudo') return Object.fromEntries([...messages].map((text) => [text, pseudo(compiled(text))]))
  // what holds no value is said as it stands
  if (language === 'en')
    return Object.fromEntries([...messages].filter((text) => text.includes('{')).map((text) => [text, compiled(text)]))
  const catalogue = readCatalogue(language)
  return Object.fromEntries([...messages].map((text) => [text, compiled(catalogue[text] ?? text)]))
}
