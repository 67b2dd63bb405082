import { mkdtempSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { describe, expect, test } from 'vitest'
import { compiled, compiledCatalogue, faultsOf } from './catalogues.ts'
import { messagesIn, messagesOfPage } from './messages.ts'

const folder = mkdtempSync(join(tmpdir(), 'lectern-words-'))
const file = (name: string, source: string) => {
  writeFileSync(join(folder, name), source)
  return join(folder, name)
}

describe('messages of the code', () => {
  test('are found in what is said and in what is said later, in both branches of a choice', () => {
    const { messages, faults } = messagesIn(
      file(
        'a.tsx',
        "export const A = () => <p title={say(x ? 'One' : 'Other')}>{say('Slide {n}', { n: 1 })}</p>\nconst L = message('Later')",
      ),
    )
    expect([...messages].sort()).toEqual(['Later', 'One', 'Other', 'Slide {n}'])
    expect(faults).toEqual([])
  })
  test('what is put together, and what is said before the language is known, is a fault', () => {
    const { faults } = messagesIn(
      file('b.ts', "const early = say('Early')\nconst f = (x: string) => say(`Slide`)\nconst m = message(early)"),
    )
    expect(faults.map((fault) => fault.replace(/^.*?:(\d+): /, '$1 ').split(';')[0])).toEqual([
      '1 said before the language is known',
      '2 what is said must stand there as text',
      '3 what is said must stand there as text',
    ])
  })
  test('a page has those of all that its script loads, however late, and no others', () => {
    file('late.ts', "export const f = () => say('Late')")
    file('typed.ts', "export type T = 1\nexport const g = () => say('Never')")
    const entry = file(
      'entry.ts',
      "import type { T } from './typed.ts'\nexport const h = async () => (await import('./late.ts')).f() + say('Now')",
    )
    expect([...messagesOfPage(entry)].sort()).toEqual(['Late', 'Now'])
    expect([...messagesOfPage(entry, [file('told.ts', "throw new E(message('Told'))")])].sort()).toEqual(['Late', 'Now', 'Told'])
  })
})

describe('catalogues', () => {
  test('a translation that wants other values, or lacks a plural form of its language, is told', () => {
    const english = '{n, plural, one {# slide} other {# slides}} of {title}'
    expect(faultsOf('de', english, '{n, plural, one {# Folie} other {# Folien}} von {title}')).toEqual([])
    expect(faultsOf('de', english, '{n, plural, one {# Folie} other {# Folien}} von {titel}')).toEqual([
      '{title} is missing',
      '{titel} is not in the English text',
    ])
    expect(faultsOf('ar', english, '{n, plural, one {شريحة} other {# شريحة}} من {title}').sort()).toEqual(
      ['few', 'many', 'two'].map((form) => `the plural form “${form}” is missing`),
    )
    expect(faultsOf('fr', english, ' ')).toEqual(['nothing is written'])
    expect(() => compiled('{n, plural, one {x}')).toThrow('is no message')
  })
  test('the long language has accents and two fifths more, also in plural forms, and leaves names of values alone', () => {
    const long = JSON.stringify(compiledCatalogue('pseudo', ['Undo the change', '{n, plural, one {# slide} other {# slides}}']))
    expect(long).toContain('Ûñdö thé çháñgé······')
    expect(long).toContain('["n","plural",')
    expect(long).toContain('slîdés')
  })
  test('English holds only what has values', () => {
    expect(Object.keys(compiledCatalogue('en', ['Undo', 'Slide {n}']))).toEqual(['Slide {n}'])
  })
})
