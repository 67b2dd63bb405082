/**
 * Inner loops of aligning in AssemblyScript, for WebAssembly with SIMD: one word of the search at one frame, and the sums of a regression.
 * Built by tools/build-kernels.ts into wasm.ts. A frame is 24 values: six vectors.
 */

/** From the third frame on one reference frame: a path must not rest on a lucky one. */
const HOLD: f32 = 0.12
/** Of leaving one reference frame out. */
const HURRY: f32 = 0.08
const INFINITE: f32 = 1e30
const LONGEST_HOLD: u8 = 250

const VECTORS: usize = 6
const FRAME: usize = 16 * VECTORS

const ALIVE: i32 = 1
const ENTERED: i32 = 2

/** The least score that `advance` left in the word it was called for. */
let least: f32 = INFINITE
export function leastScore(): f32 {
  return least
}

/** Where the host's own places begin. */
export function free(): usize {
  return __heap_base
}

// @ts-ignore: decorator
@inline
function squares(a: usize, b: usize, k: usize): v128 {
  const difference = f32x4.sub(v128.load(a + 16 * k), v128.load(b + 16 * k))
  return f32x4.mul(difference, difference)
}

/** Half the mean squared difference of two frames. */
function unlike(a: usize, b: usize): f32 {
  let sum = f32x4.add(f32x4.add(squares(a, b, 0), squares(a, b, 1)), f32x4.add(squares(a, b, 2), squares(a, b, 3)))
  sum = f32x4.add(sum, f32x4.add(squares(a, b, 4), squares(a, b, 5)))
  const all = f32x4.extract_lane(sum, 0) + f32x4.extract_lane(sum, 1) + (f32x4.extract_lane(sum, 2) + f32x4.extract_lane(sum, 3))
  return all * <f32>(0.5 / 24)
}

/**
 * One word at one frame of the recording: every state takes the cheapest way into it.
 *
 * @param frame of the recording
 * @param reference frames of all words; `scores`, `records` and `holds` have a value for each of them, which are changed
 * @param entry what it costs to begin the word here
 * @param record of the path that does
 * @param limit what costs more is given up
 * @param more what every frame of a word costs beside its unlikeness
 * @param most what a frame costs at most
 * @returns whether any state is left, and whether the word was begun
 */
export function advance(
  frame: usize,
  reference: usize,
  scores: usize,
  records: usize,
  holds: usize,
  start: i32,
  end: i32,
  entry: f32,
  record: i32,
  limit: f32,
  more: f32,
  most: f32,
): i32 {
  let told = 0
  least = INFINITE
  for (let j = end - 1; j >= start; j--) {
    const at = scores + <usize>j * 4
    const from = records + <usize>j * 4
    const held = load<u8>(holds + j)
    let value = load<f32>(at) + (held > 1 ? HOLD * <f32>(held - 1) : 0)
    let path = load<i32>(from)
    let hold: u8 = held < LONGEST_HOLD ? held + 1 : LONGEST_HOLD
    if (j > start) {
      const step = load<f32>(at - 4)
      if (step < value) {
        value = step
        path = load<i32>(from - 4)
        hold = 0
      }
      if (j > start + 1) {
        const leap = load<f32>(at - 8) + HURRY
        if (leap < value) {
          value = leap
          path = load<i32>(from - 8)
          hold = 0
        }
      }
    }
    let entered = false
    if (j <= start + 1) {
      const begun = j > start ? entry + HURRY : entry
      if (begun < value) {
        value = begun
        hold = 0
        entered = true
      }
    }
    if (value > limit) {
      store<f32>(at, INFINITE)
      store<u8>(holds + j, 0)
      continue
    }
    const cost = unlike(frame, reference + <usize>j * FRAME) + more
    value += cost < most ? cost : most
    store<f32>(at, value)
    store<i32>(from, entered ? record : path)
    store<u8>(holds + j, hold)
    told |= entered ? ALIVE | ENTERED : ALIVE
    if (value < least) least = value
  }
  return told
}

/**
 * Adds one pair to the sums of a regression: A += x xᵀ, B += x yᵀ, in double precision.
 *
 * @param x values, `width` of them, an even number
 * @param y a frame
 * @param a `width` × `width`
 * @param b `width` × 24
 */
export function addPair(x: usize, y: usize, width: i32, a: usize, b: usize): void {
  const pairs: usize = <usize>(width >> 1)
  for (let i = 0; i < width; i++) {
    const value = <f64>load<f32>(x + <usize>i * 4)
    if (value == 0) continue
    const all = f64x2.splat(value)
    let row = a + <usize>i * <usize>width * 8
    for (let j: usize = 0; j < pairs; j++) {
      const other = f64x2.promote_low_f32x4(v128.load64_zero(x + 8 * j))
      v128.store(row, f64x2.add(v128.load(row), f64x2.mul(all, other)))
      row += 16
    }
    row = b + <usize>i * 24 * 8
    for (let d: usize = 0; d < 12; d++) {
      const other = f64x2.promote_low_f32x4(v128.load64_zero(y + 8 * d))
      v128.store(row, f64x2.add(v128.load(row), f64x2.mul(all, other)))
      row += 16
    }
  }
}

/**
 * What a regression foretells of one frame: out = x · B.
 *
 * @param x values, `width` of them
 * @param b `width` × 24, double precision
 * @param out 24 values, double precision
 */
export function foretell(x: usize, width: i32, b: usize, out: usize): void {
  memory.fill(out, 0, 24 * 8)
  for (let i = 0; i < width; i++) {
    const value = f64x2.splat(<f64>load<f32>(x + <usize>i * 4))
    const row = b + <usize>i * 24 * 8
    for (let d: usize = 0; d < 24 * 8; d += 16) {
      v128.store(out + d, f64x2.add(v128.load(out + d), f64x2.mul(value, v128.load(row + d))))
    }
  }
}
