/**
 * Trains the voice model (core/audio/cleaning/voice-weights.ts) on voices from Debian packages and synthesised ones in made-up rooms.
 * The voices are the bench's, but other prompts. Needs the packages named in bench/tidy/corpus.ts, flite and ffmpeg; takes about an hour.
 * Usage: npm run train:voice-model -- [recordings] [passes] [file]. The committed weights are those of the usual values.
 */
import { writeFileSync } from 'node:fs'
import { FEATURES, OUTPUTS } from '#core/audio/cleaning/features.ts'
import { random } from '#tests/sound.ts'
import { trainingRecording } from '../../bench/tidy/training-rooms.ts'
import { examplesOf, STEPS, unpack } from './examples.ts'
import { judge } from './loss.ts'
import { makeNetwork } from './network.ts'

const recordings = Number(process.argv[2] ?? 1800)
const passes = Number(process.argv[3] ?? 8)
const out = process.argv[4] ?? 'core/audio/cleaning/voice-weights.ts'

const HIDDEN = 112
const DILATIONS = [1, 2, 4, 8, 16]
/** As many columns as the products want. */
const COLUMNS = Math.ceil(OUTPUTS / 4) * 4
const REACH = 1 + DILATIONS.reduce((sum, d) => sum + d, 0)
/** Sequences that are learned from at once. */
const TOGETHER = 3
const [MOST, LEAST] = [2e-3, 1e-5]

const examples = Array.from({ length: recordings }, (_, i) => {
  if (i % 100 === 0) console.log(`recording ${i}`)
  return examplesOf(trainingRecording(i + 1))
})
const network = makeNetwork(STEPS, FEATURES, HIDDEN, COLUMNS, DILATIONS, 5)
const next = random(11)
const began = Date.now()
const updates = Math.floor(recordings / TOGETHER)
for (let pass = 0; pass < passes; pass++) {
  const order = examples.map((_, i) => i)
  for (let i = order.length - 1; i > 0; i--) {
    const j = Math.floor(next() * (i + 1))
    ;[order[i], order[j]] = [order[j]!, order[i]!]
  }
  const sums = { gains: 0, speaking: 0, course: 0 }
  for (let u = 0; u < updates; u++) {
    for (const i of order.slice(u * TOGETHER, (u + 1) * TOGETHER)) {
      const truth = unpack(examples[i]!, network.inputs.values)
      network.forward()
      const { values } = network.outputs
      const losses = judge(values, COLUMNS, truth, REACH, STEPS - REACH, 1 / TOGETHER, network.outputGradient.values)
      network.backward()
      for (const key of ['gains', 'speaking', 'course'] as const) sums[key] += losses[key] / (updates * TOGETHER)
    }
    network.learn(LEAST + 0.5 * MOST * (1 + Math.cos((Math.PI * (pass + u / updates)) / passes)))
  }
  const figures = Object.entries(sums).map(([name, sum]) => `${name} ${sum.toFixed(5)}`)
  console.log(`pass ${pass + 1}: ${figures.join(', ')}, ${Math.round((Date.now() - began) / 1000)} s`)
  save()
}

/** Weights as 8-bit integers, one scale an output. */
function save() {
  const packed = network.layers.map(({ taps, biases }, l) => {
    const { rows, columns } = taps[0]!.weights
    const each = taps.length * rows
    const bytes = new Int8Array(columns * each)
    const scales: number[] = []
    for (let o = 0; o < columns; o++) {
      const own = taps.flatMap(({ weights }) => Array.from({ length: rows }, (_, i) => weights.values[i * columns + o]!))
      const largest = own.reduce((most, w) => Math.max(most, Math.abs(w)), 1e-9)
      scales.push(Number((largest / 127).toPrecision(6)))
      bytes.set(
        own.map((w) => Math.round((w / largest) * 127)),
        o * each,
      )
    }
    const numbers = (values: Iterable<number>) => JSON.stringify(Array.from(values, (v) => Number(v.toPrecision(5))))
    const apart = l === 0 ? 1 : (DILATIONS[l - 1] ?? 0)
    return `  { inputs: ${rows}, outputs: ${columns}, apart: ${apart}, scales: ${JSON.stringify(scales)}, biases: ${numbers(biases.values)}, weights: '${Buffer.from(bytes.buffer).toString('base64')}' },`
  })
  writeFileSync(
    out,
    `/** Made by tools/voice-model/train.ts; not to be edited. Weights are 8-bit, row by row, base64. */\n// biome-ignore format: data\nexport const VOICE_LAYERS = [\n${packed.join('\n')}\n] as const\n`,
  )
}
