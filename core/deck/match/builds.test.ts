import { describe, expect, test } from 'vitest'
import { buildsOn, type SmallPicture } from './builds.ts'

const [W, H] = [160, 90]
/** A page with blocks on paper. */
function page(...blocks: { x: number; y: number; w: number; h: number; level?: number }[]): SmallPicture {
  const rgb = new Uint8Array(W * H * 3).fill(250)
  for (const { x, y, w, h, level = 30 } of blocks)
    for (let row = y; row < y + h; row++) rgb.fill(level, (row * W + x) * 3, (row * W + x + w) * 3)
  return { rgb, width: W, height: H }
}
const title = { x: 10, y: 8, w: 80, h: 8 }
const first = { x: 10, y: 30, w: 60, h: 6 }
const second = { x: 10, y: 45, w: 60, h: 6 }

describe('pages that build up', () => {
  test('a line more is a step', () => {
    expect(buildsOn(page(title, first), page(title, first, second))).toBe(true)
  })
  test('a line that goes, or is another one, is none', () => {
    expect(buildsOn(page(title, first, second), page(title, first))).toBe(false)
    expect(buildsOn(page(title, first), page({ ...title, w: 40 }, { ...first, x: 30 }))).toBe(false)
  })
  test('the same page twice, or with another page number, is none', () => {
    expect(buildsOn(page(title, first), page(title, first))).toBe(false)
    expect(buildsOn(page(title, first), page(title, first, { x: 150, y: 85, w: 3, h: 4 }))).toBe(false)
  })
  test('a page of another kind is none', () => {
    expect(buildsOn(page(title), page({ x: 0, y: 0, w: W, h: H, level: 10 }))).toBe(false)
  })
})
