/** Drawings in orders of the older kind, made by hand after [MS-WMF], §2.3. */
import sharp from 'sharp'
import { expect, test } from 'vitest'
import { drawWmf } from '#server/import/wmf.ts'

/** A hundred by fifty units. @param records of 16-bit words, the function first */
function made(...records: number[][]): Uint8Array {
  const words = (value: number) => [value & 0xffff, value >>> 16]
  const body = records.flatMap((record) => [...words(record.length + 2), ...record])
  const most = Math.max(...records.map((record) => record.length + 2))
  const placeable = [0xcdd7, 0x9ac6, 0, 0, 0, 100, 50, 1440, 0, 0]
  const sum = placeable.reduce((all, word) => all ^ word, 0)
  const header = [1, 9, 0x300, ...words(9 + body.length), 2, ...words(most), 0]
  return new Uint8Array(Uint16Array.from([...placeable, sum, ...header, ...body]).buffer)
}
const WINDOW = [
  [0x103, 8],
  [0x20b, 0, 0],
  [0x20c, 50, 100],
]
const BRUSH = [0x2fc, 0, 0x00ff, 0, 0]
const USE = [0x12d, 0]
const SQUARE = [0x324, 4, 10, 10, 40, 10, 40, 40, 10, 40]
/** From bottom to top: the rays' ends, then the box. */
const PIE = [0x81a, 0, 75, 25, 90, 40, 90, 10, 60]
const END = [0]

test('what it draws stands where the file says, and is whole', async () => {
  const drawn = drawWmf(made(...WINDOW, BRUSH, USE, SQUARE, END))!
  expect(drawn.isWhole).toBe(true)
  const { data, info } = await sharp(drawn.svg).ensureAlpha().raw().toBuffer({ resolveWithObject: true })
  const at = (x: number, y: number) => {
    const i = 4 * (Math.round((y / 50) * info.height) * info.width + Math.round((x / 100) * info.width))
    return data[i + 3] === 0 ? null : [...data.subarray(i, i + 3)]
  }
  expect([at(25, 25), at(70, 25)]).toEqual([[255, 0, 0], null])
})
test('what is passed over is said', () => {
  expect(drawWmf(made(...WINDOW, BRUSH, USE, SQUARE, PIE, END))!.isWhole).toBe(false)
})
test('of nothing, or of what is cut off, there is no picture', () => {
  expect(drawWmf(made(...WINDOW, END))).toBeNull()
  expect(drawWmf(made(...WINDOW, BRUSH, USE, SQUARE, END).subarray(0, 60))).toBeNull()
})
