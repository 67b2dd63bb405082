import { expect, test } from 'vitest'
import { kernels } from './kernels.ts'
import { MEMORY_PAGES, type MemoryPart, memoryPart } from './memory-map.ts'

const PARTS: MemoryPart[] = ['work', 'rows', 'model']

/** Where a part begins and ends, in floats: found by taking all of it. */
function bounds(part: MemoryPart) {
  const { take } = memoryPart(part)
  const from = take(4)
  let last = from
  for (;;) {
    try {
      last = take(4)
    } catch {
      return { from, end: last + 4 }
    }
  }
}

test('parts lie behind the tables and each other, and end with the memory', () => {
  let before = kernels().free() / 4
  for (const part of PARTS) {
    const { from, end } = bounds(part)
    expect([part, from >= before]).toEqual([part, true])
    before = end
  }
  expect(before).toBe(kernels().floats.length)
  expect(kernels().floats.length * 4).toBe(MEMORY_PAGES * 65_536)
})

test('places begin at whole vectors, and what does not fit is refused', () => {
  const { take } = memoryPart('rows')
  expect([take(1), take(5), take(4)].map((place) => place % 4)).toEqual([0, 0, 0])
  expect(() => take(10_000_000)).toThrow('“rows” is too small')
})
