/**
 * A small learned model of what is voice and what is room: for each band and moment how much of it is voice, whether a voice is heard,
 * and whether words are said. It looks both ways, which a live suppressor cannot.
 */
import { kernels, STEPS_TOGETHER } from '#core/audio/wasm/kernels.ts'
import { memoryPart } from '#core/audio/wasm/memory-map.ts'
import { BANDS, FEATURES, type StepFeatures } from './model-features.ts'
import { readVoiceModel, type VoiceLayer } from './voice-model-file.ts'

interface Layer extends Pick<VoiceLayer, 'inputs' | 'outputs' | 'apart' | 'scales'> {
  /** Places in the kernels' memory, in floats. */
  weights: number
  products: number
  biases: number
}

/** Steps that are worked at once, those around what is answered included. */
const WINDOW = 32 * STEPS_TOGETHER
/** Rows are no power of two apart, which caches bear badly. */
const ROW = WINDOW + 3 * STEPS_TOGETHER
/** So many products of 16-bit inputs and 8-bit weights fit into a sum, as `paired` scales the inputs. */
const MOST_PRODUCTS = 845

interface LoadedModel {
  layers: Layer[]
  /** How far it looks both ways, steps. */
  reach: number
  /** Where the features and what comes of them in turn stand, in floats: rows of `ROW`. */
  buffers: [number, number, number]
  /** Where a layer's inputs stand as integers, in floats. */
  pairs: number
}

let loaded: LoadedModel | null = null

/**
 * Gives this thread the model, once, before anything is cleaned in it: its weights go into the kernels' memory.
 *
 * @param file bytes of `voice-model.bin`; those who read files and addresses fetch them
 * @throws Error when they are no voice model, or one that is too wide or looks too far
 */
export function setVoiceModel(file: Uint8Array): void {
  if (loaded) return
  const { floats, take } = memoryPart('model')
  const given = readVoiceModel(file)
  const reach = given.reduce((sum, { apart }) => sum + apart, 0)
  const layers = given.map(({ inputs, outputs, apart, scales, biases, weights }) => {
    if ((apart > 0 ? 3 : 1) * inputs > MOST_PRODUCTS) throw new Error('The voice model is too wide for sums of 32 bits.')
    if (apart > STEPS_TOGETHER) throw new Error('The voice model looks further than what is kept empty beside its rows.')
    const places = { weights: take(weights.length / 2), products: take(outputs), biases: take(outputs) }
    new Int16Array(floats.buffer, places.weights * 4, weights.length).set(weights)
    floats.set(biases, places.biases)
    return { inputs, outputs, apart, scales, ...places }
  })
  const widest = Math.max(...layers.map(({ outputs }) => outputs))
  // the outermost steps look beyond their row: what comes of that is not answered, but it must be memory
  const buffer = (rows: number) => take(rows * ROW + 2 * reach) + reach
  loaded = {
    layers,
    reach,
    buffers: [buffer(FEATURES), buffer(widest), buffer(widest)],
    pairs: buffer(Math.max(FEATURES, widest) / 2),
  }
}

export interface VoiceMask {
  steps: number
  /** `steps × BANDS`: square roots of the amplitude gains that would leave the voice alone, 0 to 1. */
  roots: Float32Array
  /** Probability that a voice is heard, with what the room answers and without breaths, 0 to 1, for each step. */
  voiceProbability: Float32Array
  /** The same for words alone, without what the room answers. */
  speechProbability: Float32Array
}

/** @param features as `stepFeatures` gives them @throws Error when this thread was given no model */
export function voiceMask({ steps, values }: StepFeatures): VoiceMask {
  const { floats, paired, layer16 } = kernels()
  if (!loaded) throw new Error('This thread was not given the voice model: call setVoiceModel first.')
  const { layers, reach, buffers, pairs } = loaded
  const mask = {
    steps,
    roots: new Float32Array(steps * BANDS),
    voiceProbability: new Float32Array(steps),
    speechProbability: new Float32Array(steps),
  }
  const logistic = (v: number) => 1 / (1 + Math.exp(-v))
  for (let first = 0; first < steps; first += WINDOW - 2 * reach) {
    const answered = Math.min(WINDOW - 2 * reach, steps - first)
    const worked = Math.ceil((answered + 2 * reach) / STEPS_TOGETHER) * STEPS_TOGETHER
    // beyond the ends the last step is repeated
    for (let n = 0; n < worked; n++) {
      const from = Math.min(steps - 1, Math.max(0, first - reach + n)) * FEATURES
      for (let i = 0; i < FEATURES; i++) floats[buffers[0] + i * ROW + n] = values[from + i]!
    }
    let from = buffers[0]
    for (const [l, { inputs, outputs, apart, scales, weights, products, biases }] of layers.entries()) {
      const to = from === buffers[1] ? buffers[2] : buffers[1]
      const kind = l === 0 ? 1 : l < layers.length - 1 ? 2 : 0
      const unit = paired(from * 4, pairs * 4, ROW * 4, inputs, worked)
      for (let o = 0; o < outputs; o++) floats[products + o] = scales[o]! * unit
      for (let n = 0; n < worked; n += STEPS_TOGETHER)
        layer16(
          weights * 4,
          products * 4,
          biases * 4,
          (pairs + n) * 4,
          (from + n) * 4,
          (to + n) * 4,
          ROW * 4,
          inputs,
          outputs,
          apart > 0 ? 3 : 1,
          apart * 4,
          kind,
        )
      from = to
    }
    for (let n = 0; n < answered; n++) {
      const at = from + reach + n
      for (let b = 0; b < BANDS; b++) mask.roots[(first + n) * BANDS + b] = logistic(floats[at + b * ROW]!)
      mask.voiceProbability[first + n] = logistic(floats[at + BANDS * ROW]!)
      mask.speechProbability[first + n] = logistic(floats[at + (BANDS + 1) * ROW]!)
    }
  }
  return mask
}
