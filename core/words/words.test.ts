import { compileMessage } from '@lingui/message-utils/compileMessage'
import { afterEach, describe, expect, test } from 'vitest'
import { figure } from './figures.ts'
import { KeptMessage, MessageSchema } from './kept-message.ts'
import { languageName } from './language-name.ts'
import { languageFor } from './languages.ts'
import { packed, unpacked } from './packed.ts'
import { SaidError } from './said-error.ts'
import { directionOf, isMessage, isolated, message, say, speak } from './say.ts'
import { directionOfText, sayIn } from './say-in.ts'

const catalogue = (texts: Record<string, string>) =>
  Object.fromEntries(Object.entries(texts).map(([english, text]) => [english, compileMessage(text)]))
afterEach(() => speak('en', {}))

describe('what is said', () => {
  test('in English as it stands, with its values and its plural forms', () => {
    expect(say('Undo')).toBe('Undo')
    expect(say('Slide {number} of {slides}', { number: 2, slides: 8 })).toBe('Slide 2 of 8')
    const counted = (slides: number) => say('{slides, plural, one {# slide} other {# slides}}', { slides })
    expect([counted(1), counted(2), counted(0)]).toEqual(['1 slide', '2 slides', '0 slides'])
  })
  test('in the reader’s language; what the catalogue has not, in English', () => {
    speak('de', catalogue({ Undo: 'Rückgängig', 'Take {number}': 'Take Nr. {number}' }))
    expect([say('Undo'), say('Take {number}', { number: 3 }), say('Redo')]).toEqual(['Rückgängig', 'Take Nr. 3', 'Redo'])
  })
  test('a message is said where it is read, with messages inside', () => {
    const why = message('The disk is full. Free some space; what was saved before is untouched.')
    const said = message('This take could not be tidied yet. {why}', { why })
    speak('de', catalogue({ [said.id]: 'Noch nicht aufgeräumt. {why}', [why.id]: 'Die Platte ist voll.' }))
    expect(say(said)).toBe('Noch nicht aufgeräumt. Die Platte ist voll.')
    // as JSON has it
    expect(say(JSON.parse(JSON.stringify(said)))).toBe('Noch nicht aufgeräumt. Die Platte ist voll.')
  })
  test('numbers have the decimal sign of the language, and the numerals of the time axis', () => {
    speak('de', {})
    expect([say('{size} MB', { size: 2.5 }), figure(-16, 1), figure(2.345, 2), figure(7, 0, 2)]).toEqual([
      '2,5 MB',
      '−16,0',
      '2,35',
      '07',
    ])
    speak('ar', {}, 'ar-EG')
    expect([figure(12.5, 1), figure(1234)]).toEqual(['12.5', '1234'])
  })
  test('from right to left a name or a figure is kept from being turned with the text around it', () => {
    expect(isolated('0:27.6')).toBe('0:27.6')
    speak('ar', catalogue({ 'Delete {title}': 'حذف {title}' }))
    // UAX #9: first strong isolate, left-to-right isolate, pop
    expect(say('Delete {title}', { title: 'C++ (1)' })).toBe('حذف \u2068C++ (1)\u2069')
    expect(isolated('−28.1 LUFS', 'ltr')).toBe('\u2066−28.1 LUFS\u2069')
    expect(directionOf('ar')).toBe('rtl')
  })
  test('an error has its message as data, and as a sentence where it happened', () => {
    const error = new SaidError(message('“{name}” is empty (0 bytes). Save or download it again.', { name: 'a.pdf' }))
    expect(error.message).toBe('“a.pdf” is empty (0 bytes). Save or download it again.')
    expect(error.said.values).toEqual({ name: 'a.pdf' })
    expect([isMessage(error.said), isMessage('text'), isMessage(null), isMessage({})]).toEqual([true, false, false, false])
  })
})

describe('languages', () => {
  test('the first that a reader prefers and the product speaks', () => {
    expect(languageFor(['gl', 'es-MX', 'en'])).toBe('es')
    expect(languageFor(['AR-eg'])).toBe('ar')
    expect(languageFor(['ja'])).toBe('en')
  })
  test('have names in the reader’s', () => {
    speak('fr', {})
    expect([languageName('de'), languageName('not a tag')]).toEqual(['allemand', 'not a tag'])
  })
  test('a text for somebody else is in the language of what it stands in, or in English', () => {
    const slide = message('Slide {number}', { number: 3 })
    expect(['de-AT', 'ar', 'ja', 'en'].map((tag) => sayIn(tag, slide))).toEqual(['Folie 3', 'الشريحة 3', 'Slide 3', 'Slide 3'])
    const within = message(
      'The learning platform’s message was refused: {why}. Go back to the platform and open the lecture again.',
      {
        why: message('it has expired'),
      },
    )
    expect(sayIn('en', within)).toContain('refused: it has expired.')
    expect(sayIn('de', within)).not.toMatch(/object|expired/)
    expect(['ar', 'he', 'fa-IR', 'en', 'ja', 'not a tag'].map(directionOfText)).toEqual([
      'rtl',
      'rtl',
      'rtl',
      'ltr',
      'ltr',
      'ltr',
    ])
  })
})

describe('messages that are kept', () => {
  test('in one field of text, and read again; a sentence of an earlier version is read as it stands', () => {
    const said = message('Reading {name}', { name: '{"id":"x"}' })
    expect(unpacked(packed(said))).toEqual(said)
    expect(packed(message('Keeping'))).toBe('Keeping')
    expect(unpacked('It failed.')).toEqual({ id: 'It failed.' })
    expect(unpacked('{"id":broken')).toEqual({ id: '{"id":broken' })
    expect(unpacked(packed({ id: '{"id":"odd"}' }))).toEqual({ id: '{"id":"odd"}' })
  })
  test('in bundles of every version; what comes from outside has no messages inside', () => {
    expect(KeptMessage.parse('A chart.')).toEqual({ id: 'A chart.' })
    expect(KeptMessage.parse({ id: 'A {what}', values: { what: 'chart' } })).toEqual({
      id: 'A {what}',
      values: { what: 'chart' },
    })
    // as where two things are told of one file
    const two = { id: '{first} {second}', values: { first: { id: 'A {what}', values: { what: 'chart' } }, second: { id: 'B.' } } }
    expect(KeptMessage.parse(two)).toEqual(two)
    const deeper = { id: '{a}', values: { a: { id: '{b}', values: { b: { id: 'c' } } } } }
    expect(KeptMessage.safeParse(deeper).success).toBe(false)
    expect(MessageSchema.safeParse({ id: 'A {what}', values: { what: { id: 'x' } } }).success).toBe(false)
  })
})
