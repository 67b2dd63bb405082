/** What points to a caption goes on pointing to it when captions are made again. */
import { expect, test } from 'vitest'
import { preserveCueIds } from './preserve-cue-ids.ts'

const before = ['one', 'two', 'three', 'four'].map((text) => ({ id: `id ${text}`, text }))
function after(...texts: string[]) {
  let n = 0
  return preserveCueIds(
    before,
    texts.map((text) => ({ text })),
    () => `new ${++n}`,
  )
}

test.each([
  [
    ['one', 'two', 'three', 'four'],
    ['id one', 'id two', 'id three', 'id four'],
  ],
  // a changed one takes over the name that stood in its place
  [
    ['one', 'TWO', 'three', 'four'],
    ['id one', 'id two', 'id three', 'id four'],
  ],
  [
    ['ONE', 'two', 'three', 'FOUR'],
    ['id one', 'id two', 'id three', 'id four'],
  ],
  // one more than before gets a new name, those after it keep theirs
  [
    ['one', 'two', 'more', 'three', 'four'],
    ['id one', 'id two', 'new 1', 'id three', 'id four'],
  ],
  [
    ['one', 'TWO', 'more', 'three', 'four', 'five'],
    ['id one', 'id two', 'new 1', 'id three', 'id four', 'new 2'],
  ],
  // one that is gone leaves its name to nobody
  [
    ['one', 'three', 'four'],
    ['id one', 'id three', 'id four'],
  ],
  [['four'], ['id four']],
  // texts that come back in another order: names never stand twice
  [
    ['two', 'one'],
    ['id two', 'id three'],
  ],
  [
    ['one', 'one'],
    ['id one', 'id two'],
  ],
  [[], []],
])('%j are called %j', (texts, names) => expect(after(...texts)).toEqual(names))
