/** Bounds of the model's data, as they are checked wherever it comes in. */
import { describe, expect, test } from 'vitest'
import { Division, JOB_KINDS, JOBS, SaidAgain } from '#core/jobs/job.ts'
import { Language } from '#core/language-tag.ts'
import { TRACK_KINDS } from '#core/model/caption.ts'
import { Bookmark, Bookmarks, Mark, Marks } from '#core/model/marks.ts'
import { SampleRange } from '#core/model/sample-range.ts'
import { ClipFigures, TakeAnalysis } from '#core/model/take.ts'
import type { z } from '#core/zod.ts'

const takes = (schema: z.ZodType, value: unknown) => schema.safeParse(value).success

describe('languages', () => {
  test.each(['en', 'en-GB', 'pt-BR', 'zh-Hant-TW', 'ar'])('%s is one', (tag) => expect(takes(Language, tag)).toBe(true))
  test.each(['', 'en-a', 'english, I think', 'en_GB', 'e', '12'])('“%s” is none', (tag) =>
    expect(takes(Language, tag)).toBe(false),
  )
})

describe('stretches of a take', () => {
  test('they end after they begin, and not before the take', () => {
    expect(SampleRange.parse({ start: 0, end: 1 })).toEqual({ start: 0, end: 1 })
    expect(takes(SampleRange, { start: 5, end: 5 })).toBe(false)
    expect(takes(SampleRange, { start: 6, end: 5 })).toBe(false)
    expect(takes(SampleRange, { start: -1, end: 5 })).toBe(false)
    expect(takes(SampleRange, { start: 0.5, end: 5 })).toBe(false)
  })
})

describe('marks and bookmarks', () => {
  const all = [
    { kind: 'slide', at: 1, slideId: 'a' },
    { kind: 'step', at: 1, stepId: 'a' },
    { kind: 'pause', at: 1 },
    { kind: 'wrong', at: 1 },
    { kind: 'bookmark', at: 1 },
    { kind: 'pick-up', at: 5, from: 2 },
  ]
  test.each(all)('$kind is kept with all that it says', (mark) => {
    expect(Mark.parse(mark)).toEqual(mark)
    for (const field of Object.keys(mark)) expect(takes(Mark, { ...mark, [field]: undefined }), field).toBe(false)
    expect(takes(Mark, { ...mark, at: -1 })).toBe(false)
    expect(takes(Mark, { ...mark, at: 0.5 })).toBe(false)
  })
  test('a recording has five thousand at most', () => {
    expect(takes(Marks, Array(5000).fill(all[2]))).toBe(true)
    expect(takes(Marks, Array(5001).fill(all[2]))).toBe(false)
    expect(takes(Marks, [])).toBe(true)
  })
  test('a bookmark has a name of some letters, and stands within a day', () => {
    expect(Bookmark.parse({ at: 0, title: '  Rain  ' })).toEqual({ at: 0, title: 'Rain' })
    expect(takes(Bookmark, { at: 0, title: '   ' })).toBe(false)
    expect(takes(Bookmark, { at: 0, title: 'n'.repeat(120) })).toBe(true)
    expect(takes(Bookmark, { at: 0, title: 'n'.repeat(121) })).toBe(false)
    expect(takes(Bookmark, { at: 24 * 3600, title: 'Rain' })).toBe(true)
    expect(takes(Bookmark, { at: 24 * 3600 + 1, title: 'Rain' })).toBe(false)
    expect(takes(Bookmark, { at: -0.1, title: 'Rain' })).toBe(false)
    expect(takes(Bookmarks, Array(200).fill({ at: 1, title: 'Rain' }))).toBe(true)
    expect(takes(Bookmarks, Array(201).fill({ at: 1, title: 'Rain' }))).toBe(false)
  })
})

describe('what is known of a take', () => {
  const analysis = { speech: [{ start: 1, end: 2 }], noiseFloorDb: -50, loudnessLufs: -20, truePeakDbtp: -3, clippedSamples: 0 }
  test('what an earlier version did not find is null', () => {
    expect(TakeAnalysis.parse(analysis)).toEqual({ ...analysis, humHz: null, trailingUtterance: null })
    const figures = { loudnessLufs: -16, truePeakDbtp: -2, noiseFloorDb: null, gainDb: 3 }
    expect(ClipFigures.parse(figures)).toEqual({ ...figures, gainReductionDb: 0 })
  })
  test.each(Object.keys(analysis))('%s is needed', (field) => {
    expect(takes(TakeAnalysis, { ...analysis, [field]: undefined })).toBe(false)
  })
})

describe('jobs', () => {
  test('a division has a slide at least, and whole samples', () => {
    expect(takes(Division, { slideIds: ['a', 'b'], boundaries: [5] })).toBe(true)
    expect(takes(Division, { slideIds: [], boundaries: [] })).toBe(false)
    expect(takes(Division, { slideIds: Array(1001).fill('a'), boundaries: [] })).toBe(false)
    expect(takes(Division, { slideIds: ['a', 'b'], boundaries: [0] })).toBe(false)
    expect(takes(Division, { slideIds: ['a', 'b'], boundaries: [1.5] })).toBe(false)
  })
  test('a sentence that is said again has its takes, its text and its place', () => {
    const id = '6f5f7f3a-0000-4000-8000-000000000001'
    const said = { takeId: id, againTakeId: id, text: 'It rains.', start: 0, end: 1 }
    expect(SaidAgain.parse(said)).toEqual(said)
    expect(takes(SaidAgain, { ...said, takeId: 'one' })).toBe(false)
    expect(takes(SaidAgain, { ...said, end: 0 })).toBe(false)
    expect(takes(SaidAgain, { ...said, start: -1 })).toBe(false)
    expect(takes(SaidAgain, { ...said, text: 'n'.repeat(20_000) })).toBe(true)
    expect(takes(SaidAgain, { ...said, text: 'n'.repeat(20_001) })).toBe(false)
    expect(takes(JOBS['patch-sentence'].payload, said)).toBe(false)
    expect(takes(JOBS['patch-sentence'].payload, { ...said, id: 'made' })).toBe(true)
  })
  test('each kind takes what it is given, and nothing less', () => {
    const file = { name: 'rain.pdf', file: 'f' }
    const given: Partial<Record<(typeof JOB_KINDS)[number], Record<string, unknown>>> = {
      replace: { lectureId: 'l', files: [file] },
      'import-sound': { ...file, id: 'i', slideId: 's' },
      bed: { ...file, id: 'i', lectureId: 'l', run: { fromSlideId: 'a', toSlideId: 'b' } },
      recording: { ...file, id: 'i', lectureId: 'l' },
      'split-recording': { slideIds: ['a'], boundaries: [], recordingId: 'r', takeIds: ['t'] },
      tidy: { takeId: 't' },
      publish: { lectureId: 'l' },
      align: { slideId: 's' },
    }
    for (const [kind, payload] of Object.entries(given)) {
      const schema = JOBS[kind as keyof typeof JOBS].payload
      expect(schema.parse(payload), kind).toEqual(payload)
      for (const field of Object.keys(payload))
        expect(takes(schema, { ...payload, [field]: undefined }), `${kind} ${field}`).toBe(false)
    }
  })
  test('an import that waits since an earlier version has no language chosen', () => {
    const { payload } = JOBS.import
    const given = { lectureId: 'l', language: 'en', files: [{ name: 'rain.pdf', file: 'f' }] }
    expect(payload.parse(given)).toEqual({ ...given, chosenLanguage: null })
    expect(payload.parse({ ...given, chosenLanguage: 'cy' }).chosenLanguage).toBe('cy')
    for (const field of Object.keys(given)) expect(takes(payload, { ...given, [field]: undefined }), field).toBe(false)
  })
  test('what a sound file gave may lack a note', () => {
    expect(JOBS['import-sound'].result.parse({ takeId: 't' })).toEqual({ takeId: 't', note: null })
  })
  test('the kinds are those of the table, once', () => expect([...JOB_KINDS].sort()).toEqual(Object.keys(JOBS).sort()))
})

test('tracks are captions, subtitles or chapters', () =>
  expect([...TRACK_KINDS].sort()).toEqual(['captions', 'chapters', 'subtitles']))
