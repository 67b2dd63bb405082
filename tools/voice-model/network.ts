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

/** Zeros stand before and after a sequence, so that a layer may look beyond its ends. @returns the sequence, moved by some steps */
function padded(steps: number, edge: number, columns: number): (offset: number) => Matrix {
  const whole = matrix(steps + 2 * edge, columns)
  return (offset) => fromRow(whole, edge + offset, steps)
}

export class Network {
  readonly layers: Layer[]
  /** Steps in a sequence. */
  readonly steps: number
  readonly inputs: Matrix
  /** Before the logistic function. */
  readonly outputs: Matrix
  readonly outputGradient: Matrix
  readonly #next: () => number
  readonly #learned: Learned[] = []
  /** What each layer is given, and the gradient of that. */
  readonly #given: ((offset: number) => Matrix)[]
  readonly #slopes: ((offset: number) => Matrix)[]
  readonly #sums: Matrix[]
  readonly #sumGradient: Matrix
  #updates = 0

  /** @param dilations how far the outer steps of each inner layer stand from the middle one */
  constructor(steps: number, inputs: number, hidden: number, outputs: number, dilations: readonly number[], seed: number) {
    this.#next = random(seed)
    const edge = Math.max(1, ...dilations)
    const hiddenRows = () => padded(steps, edge, hidden)
    this.steps = steps
    this.layers = [
      this.#layer(inputs, hidden, [-1, 0, 1]),
      ...dilations.map((d) => this.#layer(hidden, hidden, [-d, 0, d])),
      this.#layer(hidden, outputs, [0]),
    ]
    const x = padded(steps, edge, inputs)
    this.#given = [x, ...dilations.map(hiddenRows), hiddenRows()]
    this.#slopes = this.#given.map((_, l) => (l === 0 ? x : hiddenRows()))
    this.#sums = [...this.layers.slice(0, -1).map(() => matrix(steps, hidden)), matrix(steps, outputs)]
    this.#sumGradient = matrix(steps, hidden)
    this.inputs = x(0)
    this.outputs = this.#sums.at(-1)!
    this.outputGradient = matrix(steps, outputs)
  }

  forward() {
    for (const [l, { taps, biases }] of this.layers.entries()) {
      const sum = this.#sums[l]!
      for (let s = 0; s < this.steps; s++) sum.values.set(biases.values, s * sum.columns)
      for (const { offset, weights } of taps) addTimes(this.#given[l]!(offset), weights, sum)
      if (l === this.layers.length - 1) return
      const [before, after] = [this.#given[l]!(0).values, this.#given[l + 1]!(0).values]
      for (let i = 0; i < after.length; i++) {
        const v = sum.values[i]!
        after[i] = (v > 0 ? v : LEAK * v) + (l > 0 ? before[i]! : 0)
      }
    }
  }

  /** From `outputGradient`, adds to the gradient. */
  backward() {
    for (let l = this.layers.length - 1; l >= 0; l--) {
      const { taps, biasGradient } = this.layers[l]!
      const last = l === this.layers.length - 1
      const gradient = last ? this.outputGradient : this.#sumGradient
      if (!last) {
        const [slope, sum] = [this.#slopes[l + 1]!(0).values, this.#sums[l]!.values]
        for (let i = 0; i < slope.length; i++) gradient.values[i] = sum[i]! > 0 ? slope[i]! : LEAK * slope[i]!
      }
      for (let s = 0; s < this.steps; s++)
        for (let o = 0; o < gradient.columns; o++)
          biasGradient.values[o] = biasGradient.values[o]! + gradient.values[s * gradient.columns + o]!
      for (const tap of taps) addTransposedTimes(this.#given[l]!(tap.offset), gradient, tap.gradient)
      if (l === 0) return
      const below = this.#slopes[l]!(0).values
      // what was added to goes straight on
      if (last) below.fill(0)
      else below.set(this.#slopes[l + 1]!(0).values)
      for (const { offset, weights } of taps) addTimesTransposed(gradient, weights, this.#slopes[l]!(offset))
    }
  }

  /** One step downhill; the gradient begins anew. */
  learn(rate: number) {
    // Adam: Kingma & Ba 2015, algorithm 1, with a second moment of 0.99; gradients longer than 1 are shortened to it
    this.#updates++
    let length = 0
    for (const { gradient } of this.#learned) for (let i = 0; i < gradient.length; i++) length += gradient[i]! * gradient[i]!
    const shortened = 1 / Math.max(1, Math.sqrt(length))
    const [c1, c2] = [1 - 0.9 ** this.#updates, 1 - 0.99 ** this.#updates]
    for (const { values, gradient, mean, square } of this.#learned) {
      for (let i = 0; i < values.length; i++) {
        const g = gradient[i]! * shortened
        mean[i] = 0.9 * mean[i]! + 0.1 * g
        square[i] = 0.99 * square[i]! + 0.01 * g * g
        values[i] = values[i]! - (rate * mean[i]!) / c1 / (Math.sqrt(square[i]! / c2) + 1e-8)
        gradient[i] = 0
      }
    }
  }

  #learnable(rows: number, columns: number, spread: number) {
    const [values, gradient] = [matrix(rows, columns), matrix(rows, columns)]
    for (let i = 0; i < values.values.length; i++) values.values[i] = spread * (2 * this.#next() - 1)
    const remembered = () => new Float32Array(values.values.length)
    this.#learned.push({ values: values.values, gradient: gradient.values, mean: remembered(), square: remembered() })
    return { values, gradient }
  }

  #layer(from: number, to: number, offsets: readonly number[]): Layer {
    const spread = 1 / Math.sqrt(from * offsets.length)
    const taps = offsets.map((offset) => {
      const { values: weights, gradient } = this.#learnable(from, to, spread)
      return { offset, weights, gradient }
    })
    const { values: biases, gradient: biasGradient } = this.#learnable(1, to, 0)
    return { taps, biases, biasGradient }
  }
}
