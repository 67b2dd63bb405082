import { expect, test } from 'vitest'
import { inTodaysNames } from './chunk-store.ts'

const take = { id: 't', slideId: 's', lectureId: 'l', microphone: 'Microphone', startedAt: 1, marks: [] }

test('a recording that an earlier version left in the browser is read by its names', () => {
  expect(inTodaysNames({ ...take, through: true, ended: { chunks: 4, gaps: 2, gapMs: 30 } })).toEqual({
    ...take,
    isContinuous: true,
    ended: { chunks: 4, dropoutCount: 2, dropoutMs: 30 },
  })
  expect(inTodaysNames({ ...take, ended: { chunks: 4, gaps: 1 } }).ended).toEqual({ chunks: 4, dropoutCount: 1, dropoutMs: 0 })
  expect(inTodaysNames({ ...take, ended: null })).toEqual({ ...take, isContinuous: false, ended: null })
})

test('one of this version stays as it is', () => {
  const kept = { ...take, isContinuous: true, ended: { chunks: 4, dropoutCount: 0, dropoutMs: 0 } }
  expect(inTodaysNames(kept)).toEqual(kept)
})
