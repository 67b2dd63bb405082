/** Weights come through their file as they were, but for rounding; a mean is one. */
import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { expect, test } from 'vitest'
import { readVoiceModel, voiceModelFile } from '#core/audio/denoise/voice-model-file.ts'
import { random } from '#tests/made/sound.ts'
import { averaged, type LayerWeights, packLayer, readWeights, unpackLayer, VOICE_MODEL, writeWeights } from './weights.ts'

const made = (seed: number): LayerWeights => {
  const next = random(seed)
  const filled = (length: number) => Float32Array.from({ length }, () => 2 * next() - 1)
  return { inputs: 6, outputs: 4, apart: 2, biases: filled(4), values: filled(4 * 3 * 6) }
}
const furthest = (a: Float32Array, b: Float32Array) => a.reduce((most, v, i) => Math.max(most, Math.abs(v - b[i]!)), 0)

test('packed and unpacked they are what they were, to half a step of the largest', () => {
  const layer = made(1)
  const back = unpackLayer(packLayer(layer))
  expect(furthest(back.values, layer.values)).toBeLessThan(0.51 / 127)
  expect([...Array.from(back.biases)].every((b, o) => Math.abs(b - layer.biases[o]!) < 1e-4)).toBe(true)
})

test('a file that is written holds them', () => {
  const folder = mkdtempSync(join(tmpdir(), 'weights-'))
  try {
    const file = join(folder, 'model.bin')
    writeWeights(file, [made(2), made(3)])
    expect(readWeights(file)).toEqual([made(2), made(3)].map((layer) => unpackLayer(packLayer(layer))))
  } finally {
    rmSync(folder, { recursive: true })
  }
})

test('the model’s own weights are packed again as they are, byte for byte', () => {
  const folder = mkdtempSync(join(tmpdir(), 'weights-'))
  const file = join(folder, 'model.bin')
  writeWeights(file, readWeights(VOICE_MODEL))
  expect(readFileSync(file).equals(readFileSync(VOICE_MODEL))).toBe(true)
  rmSync(folder, { recursive: true })
})

test.each([
  ['is no model', (bytes: Uint8Array) => bytes.subarray(1), /no voice model/],
  ['ends too early', (bytes: Uint8Array) => bytes.subarray(0, -1), /ends too early/],
  ['goes on', (bytes: Uint8Array) => Uint8Array.from([...bytes, 0]), /goes on after its last layer/],
])('a file that %s is refused', (_, damaged, says) => {
  const bytes = voiceModelFile([packLayer(made(2))])
  expect(() => readVoiceModel(damaged(bytes))).toThrow(says)
})

test('a mean lies between, by shares; what has another shape is refused', () => {
  const [a, b] = [made(4), made(5)]
  const [mean] = averaged([0.25, 0.75], [[a], [b]])
  const wanted = a.values.map((v, i) => 0.25 * v + 0.75 * b.values[i]!)
  expect(furthest(mean!.values, wanted)).toBeLessThan(1e-6)
  expect(mean!.biases[2]).toBeCloseTo(0.25 * a.biases[2]! + 0.75 * b.biases[2]!, 6)
  expect(() => averaged([0.5, 0.5], [[a], [{ ...b, values: b.values.subarray(1) }]])).toThrow('Layer 1')
})
