/**
 * The network that is trained: what a step looks like goes through layers that each look at three steps, further and further apart;
 * from the second on each adds to what it was given. Forward, backward, and the step downhill.
 */
import { random } from '#tests/made/sound.ts'
import { addTimes, addTimesTransposed, addTransposedTimes, fromRow, type Matrix, matrix } from './products.ts'

/** Below zero a value counts a tenth. */
export const LEAK = 0.1

/** One set of inputs of a layer: those of the step that stands so many steps later. */
interface Tap {
  offset: number
  weights: Matrix
  gradient: Matrix
}

interface Layer {
  taps: Tap[]
  biases: Matrix
  biasGradient: Matrix
}

/** Everything that is learned, with what Adam remembers of it. */
interface Learned {
  values: Float32Array
  gradient: Float32Array
  mean: Float32Array
  square: Float32Array
}

export interface Network {
  layers: Layer[]
  /** Steps in a sequence. */
  steps: number
  inputs: Matrix
  /** Before the logistic function. */
  outputs: Matrix
  outputGradient: Matrix
  forward(): void
  /** From `outputGradient`, adds to the gradient. */
  backward(): void
  /** One step downhill; the gradient begins anew. */
  learn(rate: number): void
}

/** @param dilations how far the outer steps of each inner layer stand from the middle one */
export function makeNetwork(
  steps: number,
  inputs: number,
  hidden: number,
  outputs: number,
  dilations: readonly number[],
  seed: number,
): Network {
  const next = random(seed)
  const edge = Math.max(1, ...dilations)
  /** Rows of zeros stand before and after a sequence. */
  const padded = (columns: number) => {
    const whole = matrix(steps + 2 * edge, columns)
    return (offset: number) => fromRow(whole, edge + offset, steps)
  }
  const learned: Learned[] = []
  const learnable = (rows: number, columns: number, spread: number) => {
    const [values, gradient] = [matrix(rows, columns), matrix(rows, columns)]
    for (let i = 0; i < values.values.length; i++) values.values[i] = spread * (2 * next() - 1)
    const remembered = () => new Float32Array(values.values.length)
    learned.push({ values: values.values, gradient: gradient.values, mean: remembered(), square: remembered() })
    return { values, gradient }
  }
  const layer = (from: number, to: number, offsets: readonly number[]): Layer => {
    const spread = 1 / Math.sqrt(from * offsets.length)
    const taps = offsets.map((offset) => {
      const { values: weights, gradient } = learnable(from, to, spread)
      return { offset, weights, gradient }
    })
    const { values: biases, gradient: biasGradient } = learnable(1, to, 0)
    return { taps, biases, biasGradient }
  }
  const layers = [
    layer(inputs, hidden, [-1, 0, 1]),
    ...dilations.map((d) => layer(hidden, hidden, [-d, 0, d])),
    layer(hidden, outputs, [0]),
  ]
  const x = padded(inputs)
  /** What each layer is given, and the gradient of that. */
  const given = [x, ...dilations.map(() => padded(hidden)), padded(hidden)]
  const slopes = given.map((_, l) => (l === 0 ? x : padded(hidden)))
  const sums = [...layers.slice(0, -1).map(() => matrix(steps, hidden)), matrix(steps, outputs)]
  const sumGradient = matrix(steps, hidden)
  const outputGradient = matrix(steps, outputs)
  let updates = 0
  return {
    layers,
    steps,
    inputs: x(0),
    outputs: sums.at(-1)!,
    outputGradient,
    forward() {
      for (const [l, { taps, biases }] of layers.entries()) {
        const sum = sums[l]!
        for (let s = 0; s < steps; s++) sum.values.set(biases.values, s * sum.columns)
        for (const { offset, weights } of taps) addTimes(given[l]!(offset), weights, sum)
        if (l === layers.length - 1) return
        const [before, after] = [given[l]!(0).values, given[l + 1]!(0).values]
        for (let i = 0; i < after.length; i++) {
          const v = sum.values[i]!
          after[i] = (v > 0 ? v : LEAK * v) + (l > 0 ? before[i]! : 0)
        }
      }
    },
    backward() {
      for (let l = layers.length - 1; l >= 0; l--) {
        const { taps, biasGradient } = layers[l]!
        const last = l === layers.length - 1
        const gradient = last ? outputGradient : sumGradient
        if (!last) {
          const [slope, sum] = [slopes[l + 1]!(0).values, sums[l]!.values]
          for (let i = 0; i < slope.length; i++) sumGradient.values[i] = sum[i]! > 0 ? slope[i]! : LEAK * slope[i]!
        }
        for (let s = 0; s < steps; s++)
          for (let o = 0; o < gradient.columns; o++)
            biasGradient.values[o] = biasGradient.values[o]! + gradient.values[s * gradient.columns + o]!
        for (const tap of taps) addTransposedTimes(given[l]!(tap.offset), gradient, tap.gradient)
        if (l === 0) return
        const below = slopes[l]!(0).values
        // what was added to goes straight on
        if (last) below.fill(0)
        else below.set(slopes[l + 1]!(0).values)
        for (const { offset, weights } of taps) addTimesTransposed(gradient, weights, slopes[l]!(offset))
      }
    },
    learn(rate) {
      // Adam: Kingma & Ba 2015, algorithm 1, with a second moment of 0.99; gradients longer than 1 are shortened to it
      updates++
      let length = 0
      for (const { gradient } of learned) for (let i = 0; i < gradient.length; i++) length += gradient[i]! * gradient[i]!
      const shortened = 1 / Math.max(1, Math.sqrt(length))
      const [c1, c2] = [1 - 0.9 ** updates, 1 - 0.99 ** updates]
      for (const { values, gradient, mean, square } of learned) {
        for (let i = 0; i < values.length; i++) {
          const g = gradient[i]! * shortened
          mean[i] = 0.9 * mean[i]! + 0.1 * g
          square[i] = 0.99 * square[i]! + 0.01 * g * g
          values[i] = values[i]! - (rate * mean[i]!) / c1 / (Math.sqrt(square[i]! / c2) + 1e-8)
          gradient[i] = 0
        }
      }
    },
  }
}
