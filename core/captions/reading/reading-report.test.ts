/** What a reading report tells of a word path. */
import { describe, expect, test } from 'vitest'
import { readingReport, wordStates } from './reading-report.ts'
import type { WordPath } from './word-path.ts'

/** A script of words of half a second, and the order in which they were said, each right after the one before. */
function path(
  script: string,
  read: (number | { word: number; unlike: number } | { rest: number } | { strange: number })[],
): WordPath {
  let at = 1
  const words: WordPath['read'] = []
  const strange: WordPath['strange'] = []
  for (const one of read) {
    if (typeof one === 'object' && 'rest' in one) at += one.rest
    else if (typeof one === 'object' && 'strange' in one) {
      strange.push({ start: at, end: at + one.strange })
      at += one.strange
    } else {
      const { word, unlike } = typeof one === 'number' ? { word: one, unlike: 0 } : one
      words.push({ word, unlike, start: at, end: at + 0.5 })
      at += 0.5
    }
  }
  return { script: script.split(' ').map((text) => ({ text, sentence: 0, seconds: 0.5 })), read: words, strange }
}
const SCRIPT = 'rain falls into the gauge at nine'
const all = [0, 1, 2, 3, 4, 5, 6]
/** Speech between the rests that are given, samples. */
const speech = (...stretches: [number, number][]) =>
  stretches.map(([start, end]) => ({ start: start * 48_000, end: end * 48_000 }))

describe('each word of the script', () => {
  test.each([
    ['read', all, ['read', 'read', 'read', 'read', 'read', 'read', 'read']],
    ['left out', [0, 1, 4, 5, 6], ['read', 'read', 'left-out', 'left-out', 'read', 'read', 'read']],
    ['said again', [0, 1, 2, 1, 2, 3, 4, 5, 6], ['read', 'repeated', 'repeated', 'read', 'read', 'read', 'read']],
    ['read otherwise', [0, 1, { strange: 0.6 }, 3, 4, 5, 6], ['read', 'read', 'read-otherwise', 'read', 'read', 'read', 'read']],
    [
      'left out beside a short sound',
      [0, 1, { strange: 0.2 }, 3, 4, 5, 6],
      ['read', 'read', 'left-out', 'read', 'read', 'read', 'read'],
    ],
    ['doubtful', [0, 1, { word: 2, unlike: 0.8 }, 3, 4, 5, 6], ['read', 'read', 'listen', 'read', 'read', 'read', 'read']],
  ] as const)('%s', (_, read, states) => expect(wordStates(path(SCRIPT, [...read]))).toEqual(states))

  test('too short to be heard is never told', () => {
    const short = path(SCRIPT, [0, 1, { word: 2, unlike: 3 }, 4, 5, 6])
    for (const i of [2, 3]) short.script[i]!.seconds = 0.06
    expect(wordStates(short)).toEqual(['read', 'read', 'read', 'listen', 'read', 'read', 'read'])
  })
})

describe('the report', () => {
  test('counts words read rightly a minute from the first word to the last', () => {
    const report = readingReport(path(SCRIPT, all), speech([1, 4.5]))
    expect(report).toMatchObject({ words: 7, correct: 7, isSure: true, events: [] })
    expect(report.seconds).toBeCloseTo(3.5)
    expect(report.correctPerMinute).toBeCloseTo((60 * 7) / 3.5)
  })

  test('takes what was left out and waits of over three seconds from them, and tells where they are', () => {
    const report = readingReport(path(SCRIPT, [0, 1, { rest: 4 }, 3, 4, { rest: 1.2 }, 5, 6]), speech([1, 2], [6, 7], [8.2, 9.2]))
    expect(report.correct).toBe(6)
    expect(report.correctPerMinute).toBeCloseTo((60 * 5) / 8.2)
    expect(report.events.map(({ kind, text }) => [kind, text])).toEqual([
      ['left-out', 'into'],
      ['hesitation', ''],
      ['pause', ''],
    ])
    expect(report.events[0]).toMatchObject({ start: 2, end: 6, words: 1 })
  })

  test.each([
    ['in the middle', [0, 1, 3, 4, 5, 6], 2, { words: 7, correct: 7 }],
    ['after the last that was read', [0, 1, 2, 3, 4, 5], 6, { words: 6, correct: 6 }],
  ] as const)('stands where a word too short to be heard was not found: %s', (_, read, short, told) => {
    const some = path(SCRIPT, [...read])
    some.script[short]!.seconds = 0.06
    const report = readingReport(some, speech([1, 4]))
    expect(report).toMatchObject(told)
    expect(report.correctPerMinute).toBeCloseTo((60 * told.correct) / 3)
  })

  test('looks at the first minute of a longer reading', () => {
    const script = Array.from({ length: 200 }, () => 'word').join(' ')
    const report = readingReport(path(script, [...Array(200).keys()]), speech([1, 101]))
    expect(report.seconds).toBeCloseTo(100)
    expect(report.correctPerMinute).toBeCloseTo(120)
  })

  test('does not count what was never come to, and is unsure where little was heard', () => {
    expect(readingReport(path(SCRIPT, [0, 1, 2]), speech([1, 2.5]))).toMatchObject({
      words: 3,
      correct: 3,
      isSure: true,
      events: [],
    })
    expect(readingReport(path(SCRIPT, [0, 6]), speech([1, 2]))).toMatchObject({ words: 7, correct: 2, isSure: false })
    const doubtful = all.map((word) => ({ word, unlike: word < 4 ? 0.8 : 0 }))
    expect(readingReport(path(SCRIPT, doubtful), speech([1, 4.5]))).toMatchObject({ correct: 7, isSure: false })
    expect(readingReport(path(SCRIPT, []), [])).toMatchObject({ words: 0, isSure: false, events: [] })
  })
})
