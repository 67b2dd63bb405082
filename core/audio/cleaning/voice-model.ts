/**
 * A small learned model of what is voice and what is room: for each band and moment how much of it is voice, and whether anybody speaks.
 * It looks 170 ms both ways, which a live suppressor cannot.
 */
import { bytesOfBase64 } from '../kernels/base64.ts'
import { kernels, STEPS_TOGETHER } from '../kernels/kernels.ts'
import { BANDS, type BandLevels, FEATURES, featuresAt } from './features.ts'
import { VOICE_LAYERS } from './voice-weights.ts'

interface Layer {
  inputs: number
  outputs: number
  /** Places in the kernels' memory, in floats. */
  weights: number
  biases: number
}

interface LoadedModel {
  layers: Layer[]
  /** Where the values of each layer stand, in floats; `values × STEPS_TOGETHER`. */
  values: number[]
}

/** The kernels' memory from here on is the model's; what lies before belongs to the transforms. */
const MODEL_PLACE = 512 * 1024

let loaded: LoadedModel | null = null

/** Puts the weights into the kernels' memory, once for each thread. */
function load(): LoadedModel {
  if (loaded) return loaded
  const { floats } = kernels()
  let next = MODEL_PLACE / 4
  const take = (count: number) => {
    const place = next
    next += Math.ceil(count / 4) * 4
    return place
  }
  const layers = VOICE_LAYERS.map(({ inputs, outputs, scales, biases, weights }) => {
    const bytes = new Int8Array(bytesOfBase64(weights).buffer)
    const layer = { inputs, outputs, weights: take(inputs * outputs), biases: take(outputs) }
    for (let i = 0; i < inputs * outputs; i++) floats[layer.weights + i] = bytes[i]! * scales[Math.floor(i / inputs)]!
    floats.set(biases, layer.biases)
    return layer
  })
  const values = [FEATURES, ...layers.map((layer) => layer.outputs)].map((count) => take(count * STEPS_TOGETHER))
  loaded = { layers, values }
  return loaded
}

export interface VoiceMask {
  steps: number
  /** `steps × BANDS`: amplitude gain that would leave the voice alone, 0 to 1. */
  gain: Float32Array
  /** Probability that somebody speaks, 0 to 1, for each step. */
  speaking: Float32Array
}

/** @param levels as `bandLevels` gives them, a step every second frame */
export function voiceMask(levels: BandLevels): VoiceMask {
  const { floats, layer16 } = kernels()
  const { layers, values } = load()
  const { steps } = levels
  const gain = new Float32Array(steps * BANDS)
  const speaking = new Float32Array(steps)
  const features = new Float32Array(FEATURES)
  for (let first = 0; first < steps; first += STEPS_TOGETHER) {
    for (let n = 0; n < STEPS_TOGETHER; n++) {
      featuresAt(levels, Math.min(steps - 1, first + n), features)
      for (let i = 0; i < FEATURES; i++) floats[values[0]! + i * STEPS_TOGETHER + n] = features[i]!
    }
    for (const [l, { inputs, outputs, weights, biases }] of layers.entries()) {
      const to = values[l + 1]!
      layer16(weights * 4, biases * 4, values[l]! * 4, to * 4, inputs, outputs)
      const last = l === layers.length - 1
      for (let i = to; i < to + outputs * STEPS_TOGETHER; i++)
        floats[i] = last ? 1 / (1 + Math.exp(-floats[i]!)) : Math.tanh(floats[i]!)
    }
    const y = values.at(-1)!
    for (let n = 0; n < STEPS_TOGETHER && first + n < steps; n++) {
      for (let b = 0; b < BANDS; b++) gain[(first + n) * BANDS + b] = floats[y + b * STEPS_TOGETHER + n]! ** 2
      speaking[first + n] = floats[y + BANDS * STEPS_TOGETHER + n]!
    }
  }
  return { steps, gain, speaking }
}
