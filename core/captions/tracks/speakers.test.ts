/** Captions of a guest: who speaks is told by a tag, and once in words. */
import { expect, test } from 'vitest'
import type { Lecture } from '#core/model/lecture.ts'
import { lectureSeconds } from '#core/timing/clocks.ts'
import type { LectureCue } from './place-cues.ts'
import { withSpeakers } from './speakers.ts'

const slide = (id: string, speaker: string | null) => ({ id, keptTakeId: `take ${id}`, takes: [{ id: `take ${id}`, speaker }] })
const lecture = { slides: [slide('own', null), slide('a', 'Ada & Bo'), slide('b', 'Ada & Bo'), slide('last', null)] }
const cue = (slideId: string, text: string, markup: string | null = null): LectureCue => ({
  id: `${slideId} ${text}`,
  slideId,
  start: lectureSeconds(0),
  end: lectureSeconds(1),
  text,
  markup,
  settings: '',
  needsReview: false,
})
const named = (...cues: LectureCue[]) =>
  withSpeakers(lecture as unknown as Lecture, cues, { language: 'en', lineCharacters: 37 }).map(({ text, markup }) => [
    text,
    markup,
  ])

test('who speaks is told by tags throughout, and in words where the speaker is another than before', () => {
  expect(
    named(cue('own', 'Hello.'), cue('a', 'Rain falls.'), cue('a', 'Snow < rain.'), cue('b', 'Ice.'), cue('last', 'Bye.')),
  ).toEqual([
    ['Hello.', null],
    ['Ada & Bo: Rain falls.', '<v Ada &amp; Bo>Ada &amp; Bo: Rain falls.</v>'],
    ['Snow < rain.', '<v Ada &amp; Bo>Snow &lt; rain.</v>'],
    ['Ice.', '<v Ada &amp; Bo>Ice.</v>'],
    ['Bye.', null],
  ])
})

test('a long caption is broken anew with the name, and a name that somebody gave stays', () => {
  const [[text]] = named(cue('a', 'A gauge stands in the open, far from\nevery tree.')) as [[string, string]]
  expect(text.split('\n')).toHaveLength(2)
  expect(text.replace('\n', ' ')).toBe('Ada & Bo: A gauge stands in the open, far from every tree.')
  expect(named(cue('a', 'Rain.', '<v Cleo>Rain.</v>'))).toEqual([['Rain.', '<v Cleo>Rain.</v>']])
  expect(named(cue('a', 'Rain.', '<i>Rain.</i>'))).toEqual([['Ada & Bo: Rain.', 'Ada &amp; Bo: <i>Rain.</i>']])
})
