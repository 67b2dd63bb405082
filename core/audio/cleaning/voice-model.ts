/**
 * A small learned model of what is voice and what is room: for each band and moment how much of it is voice, and whether anybody speaks.
 * It looks 170 ms both ways, which a live suppressor cannot.
 */
import { BANDS, type BandLevels, FEATURES, featuresAt } from './features.ts'
import { VOICE_LAYERS } from './voice-weights.ts'

interface Layer {
  inputs: number
  outputs: number
  weights: Float64Array
  biases: Float64Array
}

function unpack(layer: (typeof VOICE_LAYERS)[number]): Layer {
  const { inputs, outputs } = layer
  // core has no atob of its own types: base64 is four letters for three bytes
  const letters = 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/'
  const values = new Int8Array(128)
  for (let i = 0; i < 64; i++) values[letters.charCodeAt(i)] = i
  const bytes = new Int8Array(inputs * outputs + 3)
  for (let i = 0, at = 0; i < layer.weights.length; i += 4, at += 3) {
    let word = 0
    for (let n = 0; n < 4; n++) word = (word << 6) | (layer.weights[i + n] === '=' ? 0 : values[layer.weights.charCodeAt(i + n)]!)
    bytes[at] = word >> 16
    bytes[at + 1] = word >> 8
    bytes[at + 2] = word
  }
  const weights = Float64Array.from({ length: inputs * outputs }, (_, i) => bytes[i]! * layer.scales[Math.floor(i / inputs)]!)
  return { inputs, outputs, weights, biases: Float64Array.from(layer.biases) }
}

let layers: Layer[] | null = null

export interface VoiceMask {
  steps: number
  /** `steps × BANDS`: amplitude gain that would leave the voice alone, 0 to 1. */
  gain: Float32Array
  /** Probability that somebody speaks, 0 to 1, for each step. */
  speaking: Float32Array
}

/** So many steps go through the layers together: each weight is fetched once for all of them. */
const BATCH = 8

/** One layer for a batch; values of the batch stand side by side: `values[i × BATCH + step]`. */
function through({ inputs, outputs, weights, biases }: Layer, from: Float64Array, to: Float64Array, last: boolean) {
  for (let o = 0; o < outputs; o++) {
    const bias = biases[o]!
    let a = bias
    let b = bias
    let c = bias
    let d = bias
    let e = bias
    let f = bias
    let g = bias
    let h = bias
    for (let i = o * inputs, at = 0; at < inputs * BATCH; i++, at += BATCH) {
      const weight = weights[i]!
      a += weight * from[at]!
      b += weight * from[at + 1]!
      c += weight * from[at + 2]!
      d += weight * from[at + 3]!
      e += weight * from[at + 4]!
      f += weight * from[at + 5]!
      g += weight * from[at + 6]!
      h += weight * from[at + 7]!
    }
    const at = o * BATCH
    to[at] = a
    to[at + 1] = b
    to[at + 2] = c
    to[at + 3] = d
    to[at + 4] = e
    to[at + 5] = f
    to[at + 6] = g
    to[at + 7] = h
  }
  for (let i = 0; i < outputs * BATCH; i++) to[i] = last ? 1 / (1 + Math.exp(-to[i]!)) : Math.tanh(to[i]!)
}

/** @param levels as `bandLevels` gives them, a step every second frame */
export function voiceMask(levels: BandLevels): VoiceMask {
  layers ??= VOICE_LAYERS.map(unpack)
  const { steps } = levels
  const gain = new Float32Array(steps * BANDS)
  const speaking = new Float32Array(steps)
  const features = new Float64Array(FEATURES)
  const values = [new Float64Array(FEATURES * BATCH), ...layers.map((layer) => new Float64Array(layer.outputs * BATCH))]
  for (let first = 0; first < steps; first += BATCH) {
    for (let n = 0; n < BATCH; n++) {
      featuresAt(levels, Math.min(steps - 1, first + n), features)
      for (let i = 0; i < FEATURES; i++) values[0]![i * BATCH + n] = features[i]!
    }
    for (const [l, layer] of layers.entries()) through(layer, values[l]!, values[l + 1]!, l === layers.length - 1)
    const y = values.at(-1)!
    for (let n = 0; n < BATCH && first + n < steps; n++) {
      for (let b = 0; b < BANDS; b++) gain[(first + n) * BANDS + b] = y[b * BATCH + n]! ** 2
      speaking[first + n] = y[BANDS * BATCH + n]!
    }
  }
  return { steps, gain, speaking }
}
