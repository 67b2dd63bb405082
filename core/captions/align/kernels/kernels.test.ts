import { expect, test } from 'vitest'
import { random } from '#tests/made/sound.ts'
import { DIMENSIONS } from '../features.ts'
import { ALIVE, ENTERED, kernelsWith } from './kernels.ts'

const next = random(3)
const values = (count: number) => Float32Array.from({ length: count }, () => next() - 0.5)

test('sums of a regression, and what it foretells, are those of the definition', () => {
  const width = 6
  const [x, y, weights] = [values(width), values(DIMENSIONS), Float64Array.from(values(width * DIMENSIONS))]
  const sizes = [4 * width, 4 * DIMENSIONS, 8 * width * width, 8 * width * DIMENSIONS, 8 * DIMENSIONS]
  const { kernels, places, buffer } = kernelsWith(sizes)
  const [xAt, yAt, aAt, bAt, outAt] = places as [number, number, number, number, number]
  new Float32Array(buffer, xAt, width).set(x)
  new Float32Array(buffer, yAt, DIMENSIONS).set(y)
  const a = new Float64Array(buffer, aAt, width * width).fill(0)
  const b = new Float64Array(buffer, bAt, width * DIMENSIONS).fill(0)
  for (let times = 0; times < 2; times++) kernels.addPair(xAt, yAt, width, aAt, bAt)
  for (let i = 0; i < width; i++) {
    for (let j = 0; j < width; j++) expect(a[i * width + j]).toBeCloseTo(2 * x[i]! * x[j]!, 12)
    for (let d = 0; d < DIMENSIONS; d++) expect(b[i * DIMENSIONS + d]).toBeCloseTo(2 * x[i]! * y[d]!, 12)
  }
  b.set(weights)
  kernels.foretell(xAt, width, bAt, outAt)
  const out = new Float64Array(buffer, outAt, DIMENSIONS)
  for (let d = 0; d < DIMENSIONS; d++)
    expect(out[d]).toBeCloseTo(
      x.reduce((sum, value, i) => sum + value * weights[i * DIMENSIONS + d]!, 0),
      12,
    )
})

test('a word is begun, gone through frame by frame or over one, and given up where it costs too much', () => {
  const nodes = 5
  const { kernels, places, buffer } = kernelsWith([4 * DIMENSIONS, 4 * DIMENSIONS * nodes, 4 * nodes, 4 * nodes, nodes])
  const [frameAt, referenceAt, scoreAt, recordAt, holdAt] = places as [number, number, number, number, number]
  const reference = new Float32Array(buffer, referenceAt, DIMENSIONS * nodes)
  for (let n = 0; n < nodes; n++) reference.fill(n, n * DIMENSIONS, (n + 1) * DIMENSIONS)
  const score = new Float32Array(buffer, scoreAt, nodes).fill(1e30)
  const records = new Int32Array(buffer, recordAt, nodes).fill(-1)
  new Uint8Array(buffer, holdAt, nodes).fill(0)
  const hear = (sound: number, entry: number) => {
    new Float32Array(buffer, frameAt, DIMENSIONS).fill(sound)
    return kernels.advance(frameAt, referenceAt, scoreAt, recordAt, holdAt, 0, nodes, entry, 7, 20, 0, 10)
  }
  expect(hear(0, 1)).toBe(ALIVE | ENTERED)
  // half the squared difference to the second frame, and what leaving out the first one costs
  expect([...score.subarray(0, 3)]).toEqual([1, expect.closeTo(1.08 + 0.5, 5), expect.closeTo(1e30, -25)])
  expect(kernels.leastScore()).toBe(1)
  expect(hear(2, 1e30)).toBe(ALIVE)
  // from the first frame over the second one to the third, which is what was heard
  expect(score[2]).toBeCloseTo(1.08, 5)
  expect(records[2]).toBe(7)
  score.fill(30)
  expect(hear(2, 1e30)).toBe(0)
})
