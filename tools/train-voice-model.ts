/**
 * Trains the voice model (core/audio/cleaning/voice-weights.ts) on voices from Debian packages and synthesised ones in made-up rooms.
 * The voices are the bench's, but other prompts. Needs the packages named in bench/tidy/corpus.ts, flite and ffmpeg; takes about an hour.
 * Usage: npm run train:voice-model -- [minutes of data] [passes] [file]. The committed weights are those of the usual values.
 */
import { writeFileSync } from 'node:fs'
import { BAND_EDGES, BANDS, bandLevels, FEATURES, featuresAt, STRIDE } from '#core/audio/cleaning/features.ts'
import { firstNoise, trackNoise } from '#core/audio/cleaning/noise.ts'
import { spectrumOf, UNITS, VOICE_UNITS } from '#core/audio/cleaning/spectrum.ts'
import { random } from '#tests/sound.ts'
import { trainingRecording } from '../bench/tidy/training-rooms.ts'

const minutes = Number(process.argv[2] ?? 44)
const passes = Number(process.argv[3] ?? 12)
const out = process.argv[4] ?? 'core/audio/cleaning/voice-weights.ts'
const OUTPUTS = BANDS + 1
const HIDDEN = [112, 72]
const sizes = [FEATURES, ...HIDDEN, OUTPUTS]

// ── data
const xs: Float32Array[] = []
const ts: Float32Array[] = []
let total = 0
for (let seed = 1; total < minutes * 60; seed++) {
  const { clean, noisy } = trainingRecording(seed)
  total += clean.length / 48_000
  const spectrum = spectrumOf(noisy)
  const levels = bandLevels(spectrum, trackNoise(spectrum, firstNoise(spectrum, null)))
  const voice = spectrumOf(clean)
  const rest = spectrumOf(noisy.map((v, i) => v - clean[i]!))
  let loudest = 0
  const frameVoice = Float64Array.from({ length: levels.steps }, (_, s) => {
    let sum = 0
    for (let k = 2; k < VOICE_UNITS; k++) sum += voice.power[s * STRIDE * UNITS + k]!
    if (sum > loudest) loudest = sum
    return sum
  })
  const x = new Float32Array(levels.steps * FEATURES)
  const t = new Float32Array(levels.steps * OUTPUTS)
  for (let s = 0; s < levels.steps; s++) {
    featuresAt(levels, s, x, s * FEATURES)
    for (let b = 0; b < BANDS; b++) {
      let [v, n] = [0, 0]
      for (let k = BAND_EDGES[b]!; k < BAND_EDGES[b + 1]!; k++) {
        v += voice.power[s * STRIDE * UNITS + k]!
        n += rest.power[s * STRIDE * UNITS + k]!
      }
      t[s * OUTPUTS + b] = (v / (v + n)) ** 0.25 // root of the amplitude gain
    }
    t[s * OUTPUTS + BANDS] = frameVoice[s]! > loudest * 1e-4 ? 1 : 0
  }
  xs.push(x)
  ts.push(t)
}
const steps = xs.reduce((sum, x) => sum + x.length / FEATURES, 0)
const X = new Float32Array(steps * FEATURES)
const T = new Float32Array(steps * OUTPUTS)
let at = 0
xs.forEach((x, i) => {
  X.set(x, at * FEATURES)
  T.set(ts[i]!, at * OUTPUTS)
  at += x.length / FEATURES
})
xs.length = 0
console.log(`${steps} steps, ${(total / 60).toFixed(1)} minutes`)

// ── model: layers of weights [outputs × inputs] and biases, tanh between, logistic at the end
const next = random(5)
const layers = sizes.slice(1).map((outputs, l) => {
  const inputs = sizes[l]!
  const scale = Math.sqrt(3 / inputs)
  return {
    inputs,
    outputs,
    w: Float64Array.from({ length: inputs * outputs }, () => scale * (2 * next() - 1)),
    b: new Float64Array(outputs),
    mw: new Float64Array(inputs * outputs),
    vw: new Float64Array(inputs * outputs),
    mb: new Float64Array(outputs),
    vb: new Float64Array(outputs),
    gw: new Float64Array(inputs * outputs),
    gb: new Float64Array(outputs),
  }
})
const acts = sizes.map((size) => new Float64Array(size))
const deltas = sizes.map((size) => new Float64Array(size))

function forward(row: number) {
  acts[0]!.set(X.subarray(row * FEATURES, (row + 1) * FEATURES))
  layers.forEach(({ inputs, outputs, w, b }, l) => {
    const [from, to] = [acts[l]!, acts[l + 1]!]
    const last = l === layers.length - 1
    for (let o = 0; o < outputs; o++) {
      let sum = b[o]!
      const base = o * inputs
      for (let i = 0; i < inputs; i++) sum += w[base + i]! * from[i]!
      to[o] = last ? 1 / (1 + Math.exp(-sum)) : Math.tanh(sum)
    }
  })
}

function backward(row: number) {
  const y = acts.at(-1)!
  const d = deltas.at(-1)!
  for (let o = 0; o < OUTPUTS; o++) {
    const error = y[o]! - T[row * OUTPUTS + o]!
    // squared error on gains, cross-entropy on the presence of a voice
    d[o] = o < BANDS ? 4 * error * y[o]! * (1 - y[o]!) : 0.5 * error
  }
  for (let l = layers.length - 1; l >= 0; l--) {
    const { inputs, outputs, w, gw, gb } = layers[l]!
    const [from, delta, below] = [acts[l]!, deltas[l + 1]!, deltas[l]!]
    if (l > 0) below.fill(0)
    for (let o = 0; o < outputs; o++) {
      const g = delta[o]!
      const base = o * inputs
      gb[o] = gb[o]! + g
      if (l > 0) {
        for (let i = 0; i < inputs; i++) {
          gw[base + i] = gw[base + i]! + g * from[i]!
          below[i] = below[i]! + g * w[base + i]!
        }
      } else for (let i = 0; i < inputs; i++) gw[base + i] = gw[base + i]! + g * from[i]!
    }
    if (l > 0) for (let i = 0; i < inputs; i++) below[i] = below[i]! * (1 - from[i]! * from[i]!)
  }
}

// ── Adam (Kingma & Ba 2015)
const BATCH = 64
let updates = 0
function update(rate: number) {
  updates++
  const [c1, c2] = [1 - 0.9 ** updates, 1 - 0.999 ** updates]
  for (const { w, b, mw, vw, mb, vb, gw, gb } of layers) {
    for (const [p, m, v, g] of [
      [w, mw, vw, gw],
      [b, mb, vb, gb],
    ] as const) {
      for (let i = 0; i < p.length; i++) {
        const grad = g[i]! / BATCH
        m[i] = 0.9 * m[i]! + 0.1 * grad
        v[i] = 0.999 * v[i]! + 0.001 * grad * grad
        p[i] = p[i]! - (rate * (m[i]! / c1)) / (Math.sqrt(v[i]! / c2) + 1e-8)
        g[i] = 0
      }
    }
  }
}

const order = Uint32Array.from({ length: steps }, (_, i) => i)
const began = Date.now()
for (let pass = 0; pass < passes; pass++) {
  for (let i = steps - 1; i > 0; i--) {
    const j = Math.floor(next() * (i + 1))
    ;[order[i], order[j]] = [order[j]!, order[i]!]
  }
  let loss = 0
  let seen = 0
  for (let i = 0; i + BATCH <= steps; i += BATCH) {
    for (let n = 0; n < BATCH; n++) {
      const row = order[i + n]!
      forward(row)
      for (let o = 0; o < BANDS; o++) loss += (acts.at(-1)![o]! - T[row * OUTPUTS + o]!) ** 2 / BANDS
      seen++
      backward(row)
    }
    const progress = (pass + i / steps) / passes
    update(2e-3 * 0.5 * (1 + Math.cos(Math.PI * progress)) + 1e-5)
  }
  console.log(`pass ${pass + 1}: mean squared error ${(loss / seen).toFixed(5)}, ${Math.round((Date.now() - began) / 1000)} s`)
  save()
}

/** Weights as 8-bit integers, one scale an output. */
function save() {
  const packed = layers.map(({ inputs, outputs, w, b }) => {
    const scales: number[] = []
    const bytes = new Int8Array(inputs * outputs)
    for (let o = 0; o < outputs; o++) {
      let largest = 1e-9
      for (let i = 0; i < inputs; i++) largest = Math.max(largest, Math.abs(w[o * inputs + i]!))
      scales.push(Number((largest / 127).toPrecision(6)))
      for (let i = 0; i < inputs; i++) bytes[o * inputs + i] = Math.round((w[o * inputs + i]! / largest) * 127)
    }
    const weights = Buffer.from(bytes.buffer).toString('base64')
    const biases = Array.from(b, (v) => Number(v.toPrecision(5)))
    return `  { inputs: ${inputs}, outputs: ${outputs}, scales: ${JSON.stringify(scales)}, biases: ${JSON.stringify(biases)}, weights: '${weights}' },`
  })
  writeFileSync(
    out,
    `/** Made by tools/train-voice-model.ts; not to be edited. Weights are 8-bit, row by row, base64. */\n// biome-ignore format: data\nexport const VOICE_LAYERS = [\n${packed.join('\n')}\n] as const\n`,
  )
}
