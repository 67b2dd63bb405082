/**
 * Trains the voice model (core/audio/denoise/voice-model.bin) on voices from Debian packages and synthesised ones in made-up rooms.
 * The voices are the bench's, but other prompts. What is learned from is made beside the learning, so that little is seen often.
 * Needs the packages named in bench/tidy/corpus.ts, flite, ffmpeg and libopenblas0; takes one to two hours on two cores.
 * Usage: npm run train:voice-model -- [sequences] [file] [rate] [seed]; given a rate, learning goes on with it from the weights there are, and wants another seed.
 */
import { type ChildProcess, fork } from 'node:child_process'
import { join } from 'node:path'
import { setImmediate, setTimeout } from 'node:timers/promises'
import { FEATURES, OUTPUTS } from '#core/audio/denoise/model-features.ts'
import { random } from '#tests/made/sound.ts'
import { STEPS, unpack } from './examples.ts'
import { judge } from './loss.ts'
import { Network } from './network.ts'
import { readWeights, VOICE_MODEL, writeWeights } from './weights.ts'

const sequences = Number(process.argv[2] ?? 36_000)
const out = process.argv[3] ?? VOICE_MODEL
const goesOn = process.argv[4] !== undefined

const HIDDEN = 176
const DILATIONS = [1, 2, 4, 8, 16, 4]
const REACH = 1 + DILATIONS.reduce((sum, d) => sum + d, 0)
/** The columns of what is answered: an even number. */
const COLUMNS = Math.ceil(OUTPUTS / 2) * 2
/** Sequences that are learned from at once. */
const TOGETHER = 3
const MOST = Number(process.argv[4] ?? 2e-3)
const LEAST = MOST / 200
/** The rate rises from nothing over the first so many updates: what Adam remembers comes from few gradients then. */
const RISES = 200
/** Examples there are before learning begins, and at most: then the newest takes the place of the oldest. */
const [FIRST, KEPT] = [800, 4000]
const SAID_EVERY = 200
const SAVED_EVERY = 1000

/** Of the first voice and room. */
const seed = Number(process.argv[5] ?? 1)
const examples: Uint8Array[] = []
let made = 0
const maker: ChildProcess = fork(join(import.meta.dirname, 'make-examples.ts'), [String(seed)], { serialization: 'advanced' })
maker.on('message', (example: Uint8Array) => {
  examples[made++ % KEPT] = example
})
while (examples.length < FIRST) await setTimeout(500)

const network = new Network(STEPS, FEATURES, HIDDEN, COLUMNS, DILATIONS, 5)
if (goesOn) recall()
const next = random(11)
const began = Date.now()
const updates = Math.floor(sequences / TOGETHER)
const sums = { gains: 0, speaking: 0, course: 0 }
for (let u = 0; u < updates; u++) {
  // here what was made meanwhile comes in
  await setImmediate()
  for (let n = 0; n < TOGETHER; n++) {
    const truth = unpack(examples[Math.floor(next() * examples.length)]!, network.inputs.values)
    network.forward()
    const { values } = network.outputs
    const losses = judge(values, COLUMNS, truth, REACH, STEPS - REACH, 1 / TOGETHER, network.outputGradient.values)
    network.backward()
    for (const key of ['gains', 'speaking', 'course'] as const) sums[key] += losses[key] / SAID_EVERY / TOGETHER
  }
  network.learn(Math.min(1, (u + 1) / RISES) * (LEAST + 0.5 * MOST * (1 + Math.cos((Math.PI * u) / updates))))
  if ((u + 1) % SAVED_EVERY === 0) save()
  if ((u + 1) % SAID_EVERY > 0) continue
  const figures = Object.entries(sums).map(([name, sum]) => `${name} ${sum.toFixed(5)}`)
  console.log(`${u + 1} of ${updates}: ${figures.join(', ')}, ${made} examples, ${Math.round((Date.now() - began) / 1000)} s`)
  for (const key of ['gains', 'speaking', 'course'] as const) sums[key] = 0
}
maker.kill()
save()

/** Takes up the weights there are. */
function recall() {
  for (const [l, { outputs, biases, values }] of readWeights(VOICE_MODEL).entries()) {
    const { taps, biases: own } = network.layers[l]!
    own.values.set(biases)
    const each = values.length / outputs
    for (const [t, { weights }] of taps.entries())
      for (let i = 0; i < weights.rows; i++)
        for (let o = 0; o < outputs; o++) weights.values[i * outputs + o] = values[o * each + t * weights.rows + i]!
  }
}

function save() {
  const layers = network.layers.map(({ taps, biases }, l) => {
    const { rows: inputs, columns: outputs } = taps[0]!.weights
    const values = new Float32Array(outputs * taps.length * inputs)
    for (let o = 0, at = 0; o < outputs; o++)
      for (const { weights } of taps) for (let i = 0; i < inputs; i++) values[at++] = weights.values[i * outputs + o]!
    return { inputs, outputs, apart: l === 0 ? 1 : (DILATIONS[l - 1] ?? 0), biases: biases.values, values }
  })
  writeWeights(out, layers)
}
