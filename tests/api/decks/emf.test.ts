/** Drawings in orders, made by hand after [MS-EMF], §2.3. */
import { expect, test } from 'vitest'
import { drawEmf } from '#server/import/emf/draw.ts'

/** A hundred by fifty pixels of a device of 1000 by 500, of 10 pixels a millimetre; drawn twenty times as large. */
function made(...records: number[][]): Uint8Array {
  const size = 88 + records.reduce((sum, record) => sum + 4 * record.length, 0)
  const header = [
    1,
    88,
    0,
    0,
    100,
    50,
    0,
    0,
    1000,
    500,
    0x464d4520,
    0x10000,
    size,
    records.length + 1,
    1,
    0,
    0,
    0,
    1000,
    500,
    100,
    50,
  ]
  const words = [...header, ...records.flatMap((record) => [record[0]!, 4 * record.length, ...record.slice(2)])]
  return new Uint8Array(Int32Array.from(words).buffer)
}
const RED = [39, 0, 1, 0, 0x0000ff, 0]
const USE = [37, 0, 1]
const NO_PEN = [37, 0, 0x80000008 | 0]
const float = (value: number) => new Int32Array(new Float32Array([value]).buffer)[0]!
const letters = (text: string) => {
  const bytes = new Uint8Array(Math.ceil(text.length / 2) * 4)
  for (const [i, letter] of [...text].entries()) bytes[2 * i] = letter.charCodeAt(0)
  return [...new Int32Array(bytes.buffer)]
}

function seen(...records: number[][]) {
  const drawn = drawEmf(made(...records))!
  const { width, height } = drawn.canvas
  const { data } = drawn.canvas.getContext('2d').getImageData(0, 0, width, height)
  /** The colour at a place of the device. */
  const at = (x: number, y: number) => {
    const i = 4 * (Math.round((y / 50) * height) * width + Math.round((x / 100) * width))
    return data[i + 3] === 0 ? null : [data[i], data[i + 1], data[i + 2]]
  }
  /** How much is drawn within a box, as a share. */
  const inked = (left: number, top: number, right: number, bottom: number) => {
    let count = 0
    for (let y = top; y < bottom; y += 0.25) for (let x = left; x < right; x += 0.25) if (at(x, y)) count++
    return count / ((right - left) * (bottom - top) * 16)
  }
  return { at, inked, isWhole: drawn.isWhole, size: [width, height] }
}

test('it is as large as its frame, and shapes stand where they are said', () => {
  const { at, size } = seen(RED, USE, NO_PEN, [43, 0, 10, 10, 40, 40])
  expect(size).toEqual([2000, 1000])
  expect(at(25, 25)).toEqual([255, 0, 0])
  expect(at(45, 25)).toBeNull()
})
test('an ellipse is round, a pie is a part of it', () => {
  const { at } = seen(RED, USE, NO_PEN, [42, 0, 10, 0, 60, 50])
  expect([at(35, 25), at(11, 1)]).toEqual([[255, 0, 0], null])
  // from the right to the top, against the clock
  const pie = seen(RED, USE, NO_PEN, [47, 0, 10, 0, 60, 50, 60, 25, 35, 0])
  expect([pie.at(45, 15), pie.at(25, 35)]).toEqual([[255, 0, 0], null])
})
test('corners are round where the file says so', () => {
  const { at } = seen(RED, USE, NO_PEN, [44, 0, 10, 10, 90, 40, 20, 20])
  expect([at(11, 11), at(89, 39), at(20, 12), at(50, 25)]).toEqual([null, null, [255, 0, 0], [255, 0, 0]])
})
test('windows, viewports and the world move what is drawn', () => {
  const square = [43, 0, 0, 0, 10, 10]
  const mapped = seen(RED, USE, NO_PEN, [17, 0, 8], [9, 0, 20, 10], [11, 0, 100, 50], [10, 0, -10, 0], square)
  expect([mapped.at(75, 25), mapped.at(25, 25)]).toEqual([[255, 0, 0], null])
  const shifted = seen(RED, USE, NO_PEN, [35, 0, ...[1, 0, 0, 1, 50, 20].map(float)], square)
  expect([shifted.at(55, 25), shifted.at(5, 5)]).toEqual([[255, 0, 0], null])
})
test('what is kept comes back, with its clip let go', () => {
  const { at } = seen(
    RED,
    USE,
    NO_PEN,
    [33, 0],
    [30, 0, 0, 0, 10, 10],
    [43, 0, 0, 0, 30, 30],
    [34, 0, -1],
    [43, 0, 50, 0, 60, 10],
  )
  expect([at(5, 5), at(20, 20), at(55, 5)]).toEqual([[255, 0, 0], null, [255, 0, 0]])
})
test('a path is filled when it is said', () => {
  const path = [
    [59, 0],
    [27, 0, 10, 10],
    [54, 0, 40, 10],
    [54, 0, 10, 40],
    [61, 0],
    [60, 0],
    [62, 0, 0, 0, 0, 0],
  ]
  const { at } = seen(RED, USE, NO_PEN, ...path)
  expect([at(15, 15), at(35, 35)]).toEqual([[255, 0, 0], null])
})
test('words stand on their base, as far apart as the file says', () => {
  const text = 'Rain'
  const font = [82, 0, 2, -20, 0, 0, 0, 400, 0, 0, ...letters('Arial').concat(Array(20).fill(0))]
  const record = (dx: number) => [
    84,
    0,
    0,
    0,
    0,
    0,
    1,
    float(1),
    float(1),
    5,
    40,
    4,
    76,
    0,
    0,
    0,
    0,
    0,
    84,
    ...letters(text),
    dx,
    dx,
    dx,
    dx,
  ]
  const { inked, isWhole } = seen(font, [37, 0, 2], [18, 0, 1], [22, 0, 24], record(20))
  expect(isWhole).toBe(true)
  // above the base, and a letter in each fifth
  for (let i = 0; i < 4; i++) expect(inked(5 + 20 * i, 24, 25 + 20 * i, 41)).toBeGreaterThan(0.03)
  expect(inked(0, 42, 100, 50)).toBe(0)
})
test('a bitmap fills where it is put', () => {
  const info = [40, 1, 1, (24 << 16) | 1, 0, 4, 0, 0, 0, 0]
  const record = [81, 0, 0, 0, 0, 0, 10, 10, 0, 0, 1, 1, 80, 40, 120, 4, 0, 0xcc0020, 30, 30, ...info, 0x4a5917]
  expect(seen(record).at(25, 25)).toEqual([0x4a, 0x59, 0x17])
})
test('what is passed over is said, and nothing is nothing', () => {
  expect(seen(RED, USE, [43, 0, 0, 0, 9, 9], [118, 0, 0, 0, 0, 0, 0, 0, 0]).isWhole).toBe(false)
  expect(drawEmf(made(RED, USE))).toBeNull()
})
