/** Weights of the voice model in their file: 8-bit integers, one scale an output. */
import { readFileSync, writeFileSync } from 'node:fs'
import { readVoiceModel, type VoiceLayer, voiceModelFile } from '#core/audio/denoise/voice-model-file.ts'

export const VOICE_MODEL = 'core/audio/denoise/voice-model.bin'

export interface LayerWeights {
  inputs: number
  outputs: number
  /** How far its outer taps stand from the middle one, steps; 0 where there is one tap. */
  apart: number
  biases: ArrayLike<number>
  /** For each output all inputs of the first tap, then those of the next. */
  values: Float32Array
}

export function unpackLayer({ inputs, outputs, apart, scales, biases, weights }: VoiceLayer): LayerWeights {
  const each = weights.length / outputs
  return {
    inputs,
    outputs,
    apart,
    biases,
    values: Float32Array.from(weights, (weight, i) => weight * scales[Math.floor(i / each)]!),
  }
}

export function packLayer({ inputs, outputs, apart, biases, values }: LayerWeights): VoiceLayer {
  const each = values.length / outputs
  const weights = new Int8Array(values.length)
  const scales = Array.from({ length: outputs }, (_, o) => {
    const own = values.subarray(o * each, (o + 1) * each)
    const largest = own.reduce((most, w) => Math.max(most, Math.abs(w)), 1e-9)
    weights.set(
      own.map((w) => Math.round((w / largest) * 127)),
      o * each,
    )
    return Number((largest / 127).toPrecision(6))
  })
  return {
    inputs,
    outputs,
    apart,
    scales,
    biases: Array.from(biases, (v) => Number(v.toPrecision(5))),
    weights,
  }
}

/** @param shares of each model; they come to 1 together @param models of the same shape */
export function averaged(shares: readonly number[], models: readonly (readonly LayerWeights[])[]): LayerWeights[] {
  return models[0]!.map((layer, l) => {
    const same = models.map((model) => model[l]!)
    if (same.some(({ values, outputs }) => values.length !== layer.values.length || outputs !== layer.outputs))
      throw new Error(`Layer ${l + 1} is not as large in all of the files.`)
    const mean = (of: (one: LayerWeights) => number) => same.reduce((sum, one, m) => sum + shares[m]! * of(one), 0)
    return {
      ...layer,
      biases: Array.from(layer.biases, (_, o) => mean(({ biases }) => biases[o]!)),
      values: layer.values.map((_, i) => mean(({ values }) => values[i]!)),
    }
  })
}

export const readWeights = (file: string): LayerWeights[] => readVoiceModel(readFileSync(file)).map(unpackLayer)

export const writeWeights = (file: string, layers: readonly LayerWeights[]) =>
  writeFileSync(file, voiceModelFile(layers.map(packLayer)))
