/** Makes the reference sound like this speaker in this room. */
import { DIMENSIONS } from './features.ts'
import { kernelsWith } from './kernels/kernels.ts'
import type { Reference } from './reference.ts'
import { frameCost } from './search.ts'
import type { Path } from './traceback.ts'

/** Frames before and after, which say how a sound is coloured by its neighbours. */
const CONTEXT = [-3, 0, 3]
/** From so many pairs on there is enough to learn the neighbours' part as well. */
const PAIRS_FOR_CONTEXT = 600
const FEWEST_PAIRS = 150
const RIDGE = 120
/** The worst-fitting part is left out of the second fit: words said otherwise, and misplaced ones. */
const KEPT_PART = 0.8

interface Pair {
  reference: number
  recorded: number
}

/** Which recorded frame goes with which reference frame inside a word, by dynamic time warping. */
function pairsInWord(
  features: Float32Array,
  reference: Float32Array,
  start: number,
  end: number,
  from: number,
  to: number,
): Pair[] {
  const [rows, columns] = [end - start, to - from]
  if (rows <= 0 || columns <= 0) return []
  const total = new Float64Array(rows * columns).fill(Number.POSITIVE_INFINITY)
  const back = new Uint8Array(rows * columns)
  for (let i = 0; i < rows; i++) {
    for (let j = 0; j < columns; j++) {
      const cost = frameCost(features, start + i, reference, from + j)
      const options = [
        i > 0 && j > 0 ? total[(i - 1) * columns + j - 1]! : Number.POSITIVE_INFINITY,
        i > 0 ? total[(i - 1) * columns + j]! : Number.POSITIVE_INFINITY,
        j > 0 ? total[i * columns + j - 1]! : Number.POSITIVE_INFINITY,
      ]
      const best = i === 0 && j === 0 ? 0 : Math.min(...options)
      total[i * columns + j] = best + cost
      back[i * columns + j] = Math.max(0, options.indexOf(best))
    }
  }
  const pairs: Pair[] = []
  let [i, j] = [rows - 1, columns - 1]
  for (;;) {
    pairs.push({ recorded: start + i, reference: from + j })
    if (i === 0 && j === 0) return pairs
    const way = back[i * columns + j]!
    if (way !== 2) i--
    if (way !== 1) j--
    if (i < 0 || j < 0) return pairs
  }
}

/** Solves A X = B for a positive definite A, in place. @see Golub & Van Loan, Matrix Computations, §4.2 (Cholesky) */
function solve(a: Float64Array, b: Float64Array, n: number, columns: number) {
  for (let i = 0; i < n; i++) {
    for (let j = 0; j <= i; j++) {
      let sum = a[i * n + j]!
      for (let k = 0; k < j; k++) sum -= a[i * n + k]! * a[j * n + k]!
      a[i * n + j] = i === j ? Math.sqrt(Math.max(1e-9, sum)) : sum / a[j * n + j]!
    }
  }
  for (let c = 0; c < columns; c++) {
    for (let i = 0; i < n; i++) {
      let sum = b[i * columns + c]!
      for (let k = 0; k < i; k++) sum -= a[i * n + k]! * b[k * columns + c]!
      b[i * columns + c] = sum / a[i * n + i]!
    }
    for (let i = n - 1; i >= 0; i--) {
      let sum = b[i * columns + c]!
      for (let k = i + 1; k < n; k++) sum -= a[k * n + i]! * b[k * columns + c]!
      b[i * columns + c] = sum / a[i * n + i]!
    }
  }
}

/** What a frame of the reference is foretold from: itself and its neighbours, a constant, and a nothing that makes their number even. */
interface Inputs {
  features: Float32Array
  context: readonly number[]
  width: number
}

function layInputs({ features, context, width }: Inputs, n: number, x: Float32Array) {
  const last = features.length / DIMENSIONS - 1
  for (const [c, offset] of context.entries()) {
    const source = Math.min(last, Math.max(0, n + offset)) * DIMENSIONS
    x.set(features.subarray(source, source + DIMENSIONS), c * DIMENSIONS)
  }
  x[width - 2] = 1
  x[width - 1] = 0
}

/** Ridge regression from reference frames with their neighbours to recorded frames. */
function learn(inputs: Inputs, pairs: readonly Pair[], features: Float32Array): Float64Array {
  const { width } = inputs
  const { kernels, places, buffer } = kernelsWith([4 * width, 4 * DIMENSIONS, 8 * width * width, 8 * width * DIMENSIONS])
  const [xPlace, yPlace, aPlace, bPlace] = places as [number, number, number, number]
  const x = new Float32Array(buffer, xPlace, width)
  const y = new Float32Array(buffer, yPlace, DIMENSIONS)
  const sums = new Float64Array(buffer, aPlace, width * width).fill(0)
  const products = new Float64Array(buffer, bPlace, width * DIMENSIONS).fill(0)
  for (const { reference, recorded } of pairs) {
    layInputs(inputs, reference, x)
    y.set(features.subarray(recorded * DIMENSIONS, (recorded + 1) * DIMENSIONS))
    kernels.addPair(xPlace, yPlace, width, aPlace, bPlace)
  }
  const [a, b] = [sums.slice(), products.slice()]
  for (let i = 0; i < width; i++) a[i * width + i] = a[i * width + i]! + RIDGE
  solve(a, b, width, DIMENSIONS)
  return b
}

function apply(inputs: Inputs, frames: number, weights: Float64Array): Float32Array {
  const { width } = inputs
  const { kernels, places, buffer } = kernelsWith([4 * width, 8 * weights.length, 8 * DIMENSIONS])
  const [xPlace, weightPlace, outPlace] = places as [number, number, number]
  const x = new Float32Array(buffer, xPlace, width)
  new Float64Array(buffer, weightPlace, weights.length).set(weights)
  const foretold = new Float64Array(buffer, outPlace, DIMENSIONS)
  const out = new Float32Array(frames * DIMENSIONS)
  for (let n = 0; n < frames; n++) {
    layInputs(inputs, n, x)
    kernels.foretell(xPlace, width, weightPlace, outPlace)
    out.set(foretold, n * DIMENSIONS)
  }
  return out
}

export interface Adapted {
  /** The reference as this speaker would say it. */
  reference: Reference
  /** Recorded features on the same scale. */
  features: Float32Array
  /** What a frame costs that fits, and one that does not, on that scale. */
  fitting: number
  random: number
}

/**
 * @param original the reference as it was synthesised
 * @param path as the search found it
 * @returns null when too little was found to learn from
 */
export function adapt(
  features: Float32Array,
  original: Reference,
  path: Path,
  usable: (word: number) => boolean,
): Adapted | null {
  const spans = path.words.filter((span) => usable(span.word))
  const all = spans.flatMap(({ word, start, end }) => {
    const { start: from, end: to } = original.words[word]!
    return pairsInWord(features, original.features, start, end, from, to)
  })
  if (all.length < FEWEST_PAIRS) return null
  const context = all.length >= PAIRS_FOR_CONTEXT ? CONTEXT : [0]
  const inputs = { features: original.features, context, width: context.length * DIMENSIONS + 2 }
  const miss = (made: Float32Array) => (pair: Pair) => frameCost(features, pair.recorded, made, pair.reference)
  const rough = apply(inputs, original.frames, learn(inputs, all, features))
  const order = all.map((pair) => ({ pair, miss: miss(rough)(pair) })).sort((a, b) => a.miss - b.miss)
  const kept = order.slice(0, Math.ceil(order.length * KEPT_PART)).map((o) => o.pair)
  const made = apply(inputs, original.frames, learn(inputs, kept, features))

  // each dimension counts by how well it is foretold
  const scale = new Float64Array(DIMENSIONS)
  for (const { reference, recorded } of kept) {
    for (let d = 0; d < DIMENSIONS; d++)
      scale[d] = scale[d]! + (features[recorded * DIMENSIONS + d]! - made[reference * DIMENSIONS + d]!) ** 2
  }
  for (let d = 0; d < DIMENSIONS; d++) scale[d] = 1 / Math.sqrt(scale[d]! / kept.length + 0.05)
  const scaled = (values: Float32Array) => {
    for (let i = 0; i < values.length; i++) values[i] = values[i]! * scale[i % DIMENSIONS]!
    return values
  }
  const reference = { ...original, features: scaled(made) }
  const recorded = scaled(features.slice())
  const fitting = kept.reduce((sum, p) => sum + frameCost(recorded, p.recorded, reference.features, p.reference), 0) / kept.length
  let random = 0
  const step = Math.max(1, Math.floor(kept.length / 2000))
  let count = 0
  for (let i = 0; i < kept.length; i += step) {
    const other = kept[(i * 7919 + 104_729) % kept.length]!
    random += frameCost(recorded, kept[i]!.recorded, reference.features, other.reference)
    count++
  }
  return { reference, features: recorded, fitting, random: random / count }
}
