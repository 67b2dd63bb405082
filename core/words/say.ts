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

/** Invisible signs that keep what is between them from being turned with the text around it. */
const [LEFT_TO_RIGHT, AS_IT_BEGINS, END] = ['\u2066', '\u2068', '\u2069']

/**
 * A name or a figure that stands in a text from right to left as it stands by itself. In the other languages it needs nothing.
 *
 * @see Unicode Standard Annex #9, §2.4 "Explicit Directional Isolates"
 */
export const isolated = (text: string, direction: 'ltr' | 'auto' = 'auto'): string =>
  directionOf(current) === 'rtl' ? `${direction === 'ltr' ? LEFT_TO_RIGHT : AS_IT_BEGINS}${text}${END}` : text

/** The number with the decimal sign of the language, and nothing else. */
const plainNumber = (value: number) =>
  Number.isInteger(value) ? value : new Intl.NumberFormat(locales, { useGrouping: false }).format(value)

/** A value as it is put into its message. @param isCounted its plural form is sought, for which it stays a number */
function inPlace(value: Value | Inner, isCounted: boolean): Value {
  if (typeof value === 'object') return say(value as Message)
  if (typeof value === 'string') return isolated(value)
  return isCounted ? value : plainNumber(value)
}

/** @returns the message in the reader's language, with its values in place */
export function say<const Text extends string>(text: Text, ...values: ValuesOf<Text>): string
export function say(later: Message): string
export function say(what: string | Message, given?: Message['values']): string {
  const { id, values = given } = typeof what === 'string' ? { id: what } : what
  if (i18n.messages[id] === undefined && !id.includes('{')) return id
  const said = Object.entries(values ?? {}).map(([name, value]) => [name, inPlace(value, id.includes(`{${name}, plural`))])
  return i18n._(id, Object.fromEntries(said))
}
