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

/** @param levels as `bandLevels` gives them, a step every second frame */
export function voiceMask(levels: BandLevels): VoiceMask {
  layers ??= VOICE_LAYERS.map(unpack)
  const { steps } = levels
  const gain = new Float32Array(steps * BANDS)
  const speaking = new Float32Array(steps)
  const values = [new Float64Array(FEATURES), ...layers.map((layer) => new Float64Array(layer.outputs))]
  for (let s = 0; s < steps; s++) {
    featuresAt(levels, s, values[0]!)
    for (let l = 0; l < layers.length; l++) {
      const { inputs, outputs, weights, biases } = layers[l]!
      const from = values[l]!
      const to = values[l + 1]!
      const last = l === layers.length - 1
      for (let o = 0; o < outputs; o++) {
        let a = biases[o]!
        let b = 0
        let c = 0
        let d = 0
        const base = o * inputs
        // four sums side by side: one alone waits for each addition
        for (let i = 0; i < inputs; i += 4) {
          a += weights[base + i]! * from[i]!
          b += weights[base + i + 1]! * from[i + 1]!
          c += weights[base + i + 2]! * from[i + 2]!
          d += weights[base + i + 3]! * from[i + 3]!
        }
        const sum = a + b + c + d
        to[o] = last ? 1 / (1 + Math.exp(-sum)) : Math.tanh(sum)
      }
    }
    const y = values.at(-1)!
    for (let b = 0; b < BANDS; b++) gain[s * BANDS + b] = y[b]! * y[b]!
    speaking[s] = y[BANDS]!
  }
  return { steps, gain, speaking }
}
