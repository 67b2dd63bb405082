/** What a new deck makes of a lecture, and that taking it back makes the lecture again. */
import { expect, test } from 'vitest'
import type { Lecture } from '#core/model/lecture.ts'
import { replaceCommands } from './replace-commands.ts'

const slide = (id: string) => ({ id, title: `Title ${id}`, steps: [{ id: `${id}1` }, { id: `${id}2` }], takes: [] as unknown[] })
const lecture = { slides: ['a', 'b', 'c'].map(slide) } as unknown as Pick<Lecture, 'slides'>
const replaced: Parameters<typeof replaceCommands>[1] = {
  pages: [],
  changed: [
    { slideId: 'a', page: 0, hasNewPicture: true, newTitle: 'New title' },
    { slideId: 'b', page: 1, hasNewPicture: true, newTitle: null },
  ],
  added: [
    { page: 2, afterSlideId: null },
    { page: 3, afterSlideId: 'c' },
    { page: 4, afterSlideId: 'c' },
  ],
  order: ['c', 'a', 'b'],
}
const made = { steps: [{ slideId: 'a', stepIds: ['a-new'] }], slideIds: ['x', 'y', 'z'] }
const nothing = { changed: new Set<string>(), added: new Set<number>(), removed: new Set<string>(), reordered: false }

test('pictures and titles of chosen slides change, and come back with all their pictures', () => {
  const { forth, back } = replaceCommands(lecture, replaced, { ...nothing, changed: new Set(['a']) }, { ...made, slideIds: [] })
  expect(forth).toEqual([
    { kind: 'steps', slides: [{ id: 'a', steps: ['a-new'], deleted: false }] },
    { kind: 'slide', id: 'a', change: { title: 'New title' } },
  ])
  expect(back).toEqual([
    { kind: 'steps', slides: [{ id: 'a', steps: ['a1', 'a2'], deleted: false }] },
    { kind: 'slide', id: 'a', change: { title: 'Title a' } },
  ])
})

test('new slides stand behind those that they come after, each in its turn; those taken out are not in the order', () => {
  const wanted = { ...nothing, added: new Set([2, 3, 4]), removed: new Set(['b']), reordered: true }
  const { forth, back } = replaceCommands(lecture, replaced, wanted, { ...made, steps: [] })
  expect(forth).toEqual([
    ...['x', 'y', 'z'].map((id) => ({ kind: 'slide-deleted', id, deleted: false })),
    { kind: 'slide-deleted', id: 'b', deleted: true },
    { kind: 'order', order: ['x', 'c', 'y', 'z', 'a'] },
  ])
  expect(back).toEqual([
    ...['x', 'y', 'z'].map((id) => ({ kind: 'slide-deleted', id, deleted: true })),
    { kind: 'slide-deleted', id: 'b', deleted: false },
    { kind: 'order', order: ['a', 'b', 'c'] },
  ])
})

test('where nothing is wanted nothing happens', () => {
  expect(replaceCommands(lecture, replaced, nothing, { steps: [], slideIds: [] })).toEqual({ forth: [], back: [] })
})

test('as many pictures as before take their moments over; fewer have none', () => {
  const take = { id: 't', stepMoments: { a2: 3.5 } }
  const withTake = { slides: [{ ...slide('a'), takes: [take] }] } as unknown as Pick<Lecture, 'slides'>
  const wanted = { ...nothing, changed: new Set(['a']) }
  const only = { ...replaced, changed: [{ slideId: 'a', page: 0, hasNewPicture: true, newTitle: null }], added: [] }
  const two = replaceCommands(withTake, only, wanted, { steps: [{ slideId: 'a', stepIds: ['n1', 'n2'] }], slideIds: [] })
  expect(two.forth).toContainEqual({ kind: 'step-moments', takeId: 't', moments: { a2: 3.5, n2: 3.5 } })
  expect(two.back).toContainEqual({ kind: 'step-moments', takeId: 't', moments: { a2: 3.5 } })
  const one = replaceCommands(withTake, only, wanted, { steps: [{ slideId: 'a', stepIds: ['n1'] }], slideIds: [] })
  expect(one.forth.some((command) => command.kind === 'step-moments')).toBe(false)
})

test('what could not be drawn is told no more where another picture takes its place; what is missing of its sound stays told', () => {
  const warnings = [{ id: 'A diagram could not be drawn.' }, { id: 'Its sound is not in the deck.' }]
  const told = { slides: [{ ...slide('a'), warnings }] } as unknown as Pick<Lecture, 'slides'>
  const only = {
    ...replaced,
    changed: [{ slideId: 'a', page: 0, hasNewPicture: true, newTitle: null }],
    added: [],
    order: null,
    pages: [{}],
  }
  const ready = { steps: [{ slideId: 'a', stepIds: ['n1'] }], slideIds: [] }
  const { forth, back } = replaceCommands(told, only, { ...nothing, changed: new Set(['a']) }, ready)
  expect(forth).toContainEqual({ kind: 'slide', id: 'a', change: { warnings: [warnings[1]] } })
  expect(back).toContainEqual({ kind: 'slide', id: 'a', change: { warnings } })
})
