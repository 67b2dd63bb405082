/** What is learned from must be the true slope: it is compared with what small changes of single weights do. */
import { expect, test } from 'vitest'
import { BANDS, OUTPUTS } from '#core/audio/denoise/model-features.ts'
import { random } from '#tests/made/sound.ts'
import { judge, lossOf } from './loss.ts'
import { Network } from './network.ts'
import { addTimes, addTimesTransposed, addTransposedTimes, matrix } from './products.ts'

const COLUMNS = Math.ceil(OUTPUTS / 4) * 4
const next = random(9)
const filled = (length: number, least: number, most: number) =>
  Float32Array.from({ length }, () => least + (most - least) * next())

test('products of matrices are those of the definition', () => {
  const [a, b, c, d] = [matrix(12, 20), matrix(20, 28), matrix(12, 28), matrix(20, 28)]
  for (const m of [a, b, c, d]) m.values.set(filled(m.values.length, -1, 1))
  const [before, beside] = [c.values.slice(), d.values.slice()]
  addTimes(a, b, c)
  for (let i = 0; i < 12; i++)
    for (let j = 0; j < 28; j++) {
      let sum = before[i * 28 + j]!
      for (let k = 0; k < 20; k++) sum += a.values[i * 20 + k]! * b.values[k * 28 + j]!
      expect(c.values[i * 28 + j]).toBeCloseTo(sum, 4)
    }
  addTransposedTimes(a, c, d)
  for (let i = 0; i < 20; i++)
    for (let j = 0; j < 28; j++) {
      let sum = beside[i * 28 + j]!
      for (let k = 0; k < 12; k++) sum += a.values[k * 20 + i]! * c.values[k * 28 + j]!
      expect(d.values[i * 28 + j]).toBeCloseTo(sum, 4)
    }
  const earlier = a.values.slice()
  addTimesTransposed(c, d, a)
  for (let i = 0; i < 12; i++)
    for (let j = 0; j < 20; j++) {
      let sum = earlier[i * 20 + j]!
      for (let k = 0; k < 28; k++) sum += c.values[i * 28 + k]! * d.values[j * 28 + k]!
      expect(a.values[i * 20 + j]).toBeCloseTo(sum, 3)
    }
})

test('every layer’s slope is the true one', () => {
  const steps = 96
  const network = new Network(steps, 12, 16, COLUMNS, [1, 2], 3)
  network.inputs.values.set(filled(network.inputs.values.length, 0, 1))
  const truth = {
    // in one step of nine nobody is heard
    targets: filled(steps * OUTPUTS, 0, 1).map((v, i) => (i % OUTPUTS < BANDS ? v : Number(Math.floor(i / OUTPUTS) % 9 > 0))),
    voice: filled(steps * BANDS, 0, 1),
    all: filled(steps * BANDS, 1, 2),
  }
  const loss = () => {
    network.forward()
    return lossOf(judge(network.outputs.values, COLUMNS, truth, 4, steps - 4, 1, network.outputGradient.values))
  }
  loss()
  network.backward()
  for (const { taps } of network.layers)
    for (const { weights, gradient } of taps)
      for (const i of [3, 77]) {
        const [usual, small] = [weights.values[i]!, 1e-3]
        weights.values[i] = usual + small
        const more = loss()
        weights.values[i] = usual - small
        const less = loss()
        weights.values[i] = usual
        expect(Math.abs(gradient.values[i]! - (more - less) / (2 * small))).toBeLessThan(
          2e-4 + 0.02 * Math.abs(gradient.values[i]!),
        )
      }
})

test('what is learned from is learned', () => {
  const steps = 96
  const network = new Network(steps, 12, 16, COLUMNS, [1], 4)
  network.inputs.values.set(filled(network.inputs.values.length, 0, 1))
  // the first inputs say it all
  const targets = Float32Array.from({ length: steps * OUTPUTS }, (_, i) => {
    const input = network.inputs.values[Math.floor(i / OUTPUTS) * 12]!
    return i % OUTPUTS < BANDS ? 0.2 + 0.6 * input : Number(input > 0.5)
  })
  const all = filled(steps * BANDS, 1, 2)
  const voice = all.map((v, i) => v * targets[Math.floor(i / BANDS) * OUTPUTS + (i % BANDS)]! ** 2)
  const truth = { targets, voice, all }
  const gains: number[] = []
  for (let round = 0; round < 150; round++) {
    network.forward()
    gains.push(judge(network.outputs.values, COLUMNS, truth, 2, steps - 2, 1, network.outputGradient.values).gains)
    network.backward()
    network.learn(5e-3)
  }
  expect(gains.at(-1)!).toBeLessThan(0.3 * gains[0]!)
})
