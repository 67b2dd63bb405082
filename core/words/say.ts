/**
 * What people read, in their language. A message is its English text in ICU MessageFormat; a catalogue of another language is asked for it.
 *
 * @see Unicode Technical Standard #35, part 9, and ICU MessageFormat for `{name}` and `{count, plural, one {# slide} other {# slides}}`
 */
import { i18n, type Messages } from '@lingui/core'
import { LANGUAGES, type Language } from './languages.ts'

/** Something to be said later, in the language of whoever reads it then. */
export interface Message {
  /** In English. */
  id: string
  values?: Record<string, Value | Inner>
}
/** A message in another one. */
interface Inner {
  id: string
  values?: object
}
type Value = string | number
type FirstWord<Text extends string> = Text extends `${infer Inside}}${string}`
  ? Inside extends `${infer Word},${string}`
    ? Word
    : Inside
  : Text
/** A branch of a plural begins with a sign, or holds more than one word; a name is one word. */
type IfName<Word extends string> = Word extends `${string}#${string}` | `${string} ${string}` | '' ? never : Word
type NamesAfter<Text extends string> = Text extends `${string}{${infer Rest}` ? IfName<FirstWord<Rest>> | NamesAfter<Rest> : never
/** The names of what a message wants to be given. */
export type NamesIn<Text extends string> = string extends Text ? string : NamesAfter<Text>
type ValuesOf<Text extends string> = [NamesIn<Text>] extends [never] ? [] : [values: Record<NamesIn<Text>, Value | Inner>]

/** Figures keep one numeral system on a page: times stand beside them on the axis. */
const localesOf = (language: Language, region: string | undefined) => [`${region ?? language}-u-nu-latn`]

let current: Language = 'en'
let locales = localesOf('en', undefined)

export const language = () => current
/** For `Intl`: the language with the reader's region, and the numerals of the product. */
export const locale = () => locales

/**
 * Sets the language of all that is said from now on.
 *
 * @param catalogue compiled messages, by their English text
 * @param region a tag with the reader's region (`en-GB`), for dates and figures
 */
export function speak(next: Language, catalogue: Messages, region?: string) {
  current = next
  locales = localesOf(next, region)
  i18n.loadAndActivate({ locale: next, locales, messages: catalogue })
}

speak('en', {})

export const directionOf = (of: Language) => LANGUAGES[of].direction

/** What the server has to say comes as JSON. */
export const isMessage = (value: unknown): value is Message =>
  typeof value === 'object' && value !== null && 'id' in value && typeof value.id === 'string'

/** A message that is said later, or by somebody else. */
export function message<const Text extends string>(text: Text, ...[values]: ValuesOf<Text>): Message {
  return values ? { id: text, values } : { id: text }
}

/** @returns the message in the reader's language, with its values in place */
export function say<const Text extends string>(text: Text, ...values: ValuesOf<Text>): string
export function say(later: Message): string
export function say(what: string | Message, given?: Message['values']): string {
  const { id, values = given } = typeof what === 'string' ? { id: what } : what
  if (current === 'en' && !id.includes('{')) return id
  const said = Object.entries(values ?? {}).map(([name, value]) => [
    name,
    typeof value === 'object' ? say(value as Message) : value,
  ])
  return i18n._(id, Object.fromEntries(said))
}
