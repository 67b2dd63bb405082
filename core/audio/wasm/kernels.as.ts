/**
 * Inner loops in AssemblyScript, for WebAssembly with SIMD: Fourier transforms of four frames side by side, one layer of the voice model
 * for sixteen steps side by side, and the levels between samples. Built by tools/build-kernels.ts into wasm.ts, with what stands beside it.
 */
import { add, mul, sub } from './vectors.as'

export { decide, followNoise, halfE1, mixRatios, weighBins, weighUnits } from './suppression.as'

// ── transforms of real frames of 1024 samples, four at a time; a value of all four is one vector

const SIZE: i32 = 1024
const HALF: i32 = 512
const BINS: i32 = 513
const V: usize = 16

/** Static places: tables, then work space. All in bytes. */
const COS = memory.data(512 * 4, 16)
const SIN = memory.data(512 * 4, 16)
const REVERSED = memory.data(512 * 4, 16)
const WINDOW = memory.data(1024 * 4, 16)
const ZR = memory.data(512 * 16, 16)
const ZI = memory.data(512 * 16, 16)
const ROWS = memory.data(1024 * 4 * 4, 16)

/** Fills the tables. Called once. */
export function prepare(): void {
  for (let i = 0; i < HALF; i++) {
    const angle: f64 = (2 * Math.PI * <f64>i) / <f64>SIZE
    store<f32>(COS + i * 4, <f32>Math.cos(angle))
    store<f32>(SIN + i * 4, <f32>Math.sin(angle))
  }
  for (let i = 1; i < HALF; i++) {
    const half = load<u32>(REVERSED + (i >> 1) * 4) >> 1
    store<u32>(REVERSED + i * 4, half | (i & 1 ? HALF >> 1 : 0))
  }
  for (let i = 0; i < SIZE; i++) store<f32>(WINDOW + i * 4, <f32>Math.sin((Math.PI * <f64>i) / <f64>SIZE))
}

// @ts-ignore: decorator
@inline
function at(base: usize, i: i32): v128 {
  return v128.load(base + (<usize>i) * V)
}
// @ts-ignore: decorator
@inline
function put(base: usize, i: i32, value: v128): void {
  v128.store(base + (<usize>i) * V, value)
}

/** In-place transform of 512 complex values in bit-reversed order: one radix-2 stage, then two stages at a time. */
function butterflies(): void {
  for (let a = 0; a < HALF; a += 2) {
    const r0 = at(ZR, a)
    const i0 = at(ZI, a)
    const r1 = at(ZR, a + 1)
    const i1 = at(ZI, a + 1)
    put(ZR, a, add(r0, r1))
    put(ZI, a, add(i0, i1))
    put(ZR, a + 1, sub(r0, r1))
    put(ZI, a + 1, sub(i0, i1))
  }
  for (let span = 2; span < HALF; span *= 4) {
    const stride = HALF / (2 * span)
    for (let k = 0; k < span; k++) {
      const c1 = v128.load32_splat(COS + (2 * k * stride) * 4)
      const s1 = v128.load32_splat(SIN + (2 * k * stride) * 4)
      const c2 = v128.load32_splat(COS + (k * stride) * 4)
      const s2 = v128.load32_splat(SIN + (k * stride) * 4)
      for (let a = k; a < HALF; a += 4 * span) {
        const b = a + span
        const c = b + span
        const d = c + span
        const xbr = at(ZR, b)
        const xbi = at(ZI, b)
        const xdr = at(ZR, d)
        const xdi = at(ZI, d)
        const br = add(mul(xbr, c1), mul(xbi, s1))
        const bi = sub(mul(xbi, c1), mul(xbr, s1))
        const dr = add(mul(xdr, c1), mul(xdi, s1))
        const di = sub(mul(xdi, c1), mul(xdr, s1))
        const xar = at(ZR, a)
        const xai = at(ZI, a)
        const xcr = at(ZR, c)
        const xci = at(ZI, c)
        const ar1 = add(xar, br)
        const ai1 = add(xai, bi)
        const br1 = sub(xar, br)
        const bi1 = sub(xai, bi)
        const cr = add(xcr, dr)
        const ci = add(xci, di)
        const er = sub(xcr, dr)
        const ei = sub(xci, di)
        const cr1 = add(mul(cr, c2), mul(ci, s2))
        const ci1 = sub(mul(ci, c2), mul(cr, s2))
        const dr1 = sub(mul(ei, c2), mul(er, s2))
        const di1 = add(mul(er, c2), mul(ei, s2)) // subtracted below: its sign is turned
        put(ZR, a, add(ar1, cr1))
        put(ZI, a, add(ai1, ci1))
        put(ZR, c, sub(ar1, cr1))
        put(ZI, c, sub(ai1, ci1))
        put(ZR, b, add(br1, dr1))
        put(ZI, b, sub(bi1, di1))
        put(ZR, d, sub(br1, dr1))
        put(ZI, d, add(bi1, di1))
      }
    }
  }
}

// @ts-ignore: decorator
@inline
function lanes(base: usize, step: usize): v128 {
  return f32x4.replace_lane(
    f32x4.replace_lane(
      f32x4.replace_lane(f32x4.splat(load<f32>(base)), 1, load<f32>(base + step)),
      2,
      load<f32>(base + 2 * step),
    ),
    3,
    load<f32>(base + 3 * step),
  )
}
// @ts-ignore: decorator
@inline
function spread(base: usize, step: usize, value: v128): void {
  store<f32>(base, f32x4.extract_lane(value, 0))
  store<f32>(base + step, f32x4.extract_lane(value, 1))
  store<f32>(base + 2 * step, f32x4.extract_lane(value, 2))
  store<f32>(base + 3 * step, f32x4.extract_lane(value, 3))
}

/**
 * Spectra of four frames.
 *
 * @param samples of the first frame; the next begin `hop` samples later each
 * @param re, im rows of 513 values, one row a frame
 */
export function forward4(samples: usize, hop: i32, re: usize, im: usize): void {
  const step = <usize>(hop * 4)
  for (let i = 0; i < HALF; i++) {
    const r = <i32>load<u32>(REVERSED + i * 4)
    const from = samples + <usize>(r * 8)
    put(ZR, i, mul(lanes(from, step), v128.load32_splat(WINDOW + r * 8)))
    put(ZI, i, mul(lanes(from + 4, step), v128.load32_splat(WINDOW + r * 8 + 4)))
  }
  butterflies()
  const row = <usize>(BINS * 4)
  const half = f32x4.splat(0.5)
  const zero = f32x4.splat(0)
  spread(re, row, add(at(ZR, 0), at(ZI, 0)))
  spread(im, row, zero)
  spread(re + HALF * 4, row, sub(at(ZR, 0), at(ZI, 0)))
  spread(im + HALF * 4, row, zero)
  for (let k = 1; k < HALF; k++) {
    const n = HALF - k
    const er = mul(add(at(ZR, k), at(ZR, n)), half)
    const ei = mul(sub(at(ZI, k), at(ZI, n)), half)
    const or = mul(add(at(ZI, k), at(ZI, n)), half)
    const oi = mul(sub(at(ZR, n), at(ZR, k)), half)
    const c = v128.load32_splat(COS + k * 4)
    const s = v128.load32_splat(SIN + k * 4)
    spread(re + k * 4, row, add(er, add(mul(or, c), mul(oi, s))))
    spread(im + k * 4, row, add(ei, sub(mul(oi, c), mul(or, s))))
  }
}

/**
 * Adds four frames to a signal, windowed.
 *
 * @param re, im rows of 513 values
 * @param out where the first frame begins; the next begin `hop` samples later each
 * @param scale of the result
 */
export function inverse4(re: usize, im: usize, hop: i32, out: usize, scale: f32): void {
  const row = <usize>(BINS * 4)
  const half = f32x4.splat(0.5)
  for (let k = 0; k < HALF; k++) {
    const n = HALF - k
    const rk = lanes(re + k * 4, row)
    const ik = lanes(im + k * 4, row)
    const rn = lanes(re + n * 4, row)
    const inn = lanes(im + n * 4, row)
    const er = mul(add(rk, rn), half)
    const ei = mul(sub(ik, inn), half)
    const dr = mul(sub(rk, rn), half)
    const di = mul(add(ik, inn), half)
    const c = v128.load32_splat(COS + k * 4)
    const s = v128.load32_splat(SIN + k * 4)
    const or = sub(mul(dr, c), mul(di, s))
    const oi = add(mul(di, c), mul(dr, s))
    const r = <i32>load<u32>(REVERSED + k * 4)
    put(ZR, r, sub(er, oi))
    put(ZI, r, f32x4.neg(add(ei, or)))
  }
  butterflies()
  const each = f32x4.splat(scale / <f32>HALF)
  for (let i = 0; i < HALF; i++) {
    const even = mul(mul(at(ZR, i), each), v128.load32_splat(WINDOW + i * 8))
    const odd = mul(mul(f32x4.neg(at(ZI, i)), each), v128.load32_splat(WINDOW + i * 8 + 4))
    spread(ROWS + i * 8, <usize>(SIZE * 4), even)
    spread(ROWS + i * 8 + 4, <usize>(SIZE * 4), odd)
  }
  for (let f = 0; f < 4; f++) {
    const to = out + <usize>(f * hop * 4)
    const from = ROWS + f * SIZE * 4
    for (let i = 0; i < SIZE * 4; i += 16) v128.store(to + i, f32x4.add(v128.load(to + i), v128.load(from + i)))
  }
}

/**
 * Rows of values as 16-bit integers, two rows beside each other, as `layer16` multiplies them.
 *
 * @param from the first row's first value
 * @param to where the first two rows' first values go
 * @param row bytes from a row to the next, and from two of them to the next two
 * @param rows an even number
 * @param count values of a row, a multiple of four; sixteen more are nothing
 * @returns what an integer of 1 is worth
 */
export function paired(from: usize, to: usize, row: usize, rows: i32, count: i32): f32 {
  const bytes = <usize>count * 4
  let most = f32x4.splat(1e-9)
  for (let r = 0; r < rows; r++) {
    const at = from + <usize>r * row
    for (let i: usize = 0; i < bytes; i += 16) most = f32x4.max(most, f32x4.abs(v128.load(at + i)))
  }
  const largest = max(
    max(f32x4.extract_lane(most, 0), f32x4.extract_lane(most, 1)),
    max(f32x4.extract_lane(most, 2), f32x4.extract_lane(most, 3)),
  )
  // 845 products with weights up to 127 still fit into 32 bits
  const scale = f32x4.splat(<f32>20000 / largest)
  const low = i32x4.splat(0xffff)
  for (let r = 0; r < rows; r += 2) {
    const at = from + <usize>r * row
    const into = to + <usize>(r >> 1) * row
    for (let i: usize = 0; i < bytes; i += 16) {
      const a = i32x4.trunc_sat_f32x4_s(f32x4.nearest(mul(v128.load(at + i), scale)))
      const b = i32x4.trunc_sat_f32x4_s(f32x4.nearest(mul(v128.load(at + row + i), scale)))
      v128.store(into + i, v128.or(v128.and(a, low), i32x4.shl(b, 16)))
    }
    // beyond the last step taps hear nothing, whatever stood there before
    for (let i = bytes; i < bytes + 64; i += 16) v128.store(into + i, i32x4.splat(0))
  }
  return largest / <f32>20000
}

/**
 * One layer of the voice model for sixteen steps, side by side. A value of all steps is a row; a layer looks at the same rows
 * `shift` steps before, now and after (three taps), or now alone (one).
 *
 * @param weights for each output all inputs of the first tap, then those of the next, 16-bit integers
 * @param scales what a product of 1 is worth, and
 * @param biases 32-bit floats, one for each output
 * @param from the first two inputs' values at the first of the steps, as `paired` lays them
 * @param beside the first input's value there, as it is
 * @param to the first output's value there
 * @param row bytes from an input, or output, to the next
 * @param inputs an even number
 * @param outputs an even number
 * @param shift bytes
 * @param kind 0 the sum as it is, 1 with a tenth of what is below zero, 2 that and the input added
 */
export function layer16(
  weights: usize,
  scales: usize,
  biases: usize,
  from: usize,
  beside: usize,
  to: usize,
  row: usize,
  inputs: i32,
  outputs: i32,
  taps: i32,
  shift: usize,
  kind: i32,
): void {
  const first = taps === 3 ? from - shift : from
  const count = <usize>(taps * inputs) * 2
  for (let o = 0; o < outputs; o += 2) {
    let a = i32x4.splat(0)
    let b = a
    let c = a
    let d = a
    let p = a
    let q = a
    let r = a
    let s = a
    let w = weights + <usize>o * count
    for (let t = 0; t < taps; t++) {
      let x = first + <usize>t * shift
      for (let i = 0; i < inputs; i += 2) {
        const v = v128.load32_splat(w)
        const u = v128.load32_splat(w + count)
        const x0 = v128.load(x)
        const x1 = v128.load(x, 16)
        const x2 = v128.load(x, 32)
        const x3 = v128.load(x, 48)
        a = i32x4.add(a, i32x4.dot_i16x8_s(v, x0))
        b = i32x4.add(b, i32x4.dot_i16x8_s(v, x1))
        c = i32x4.add(c, i32x4.dot_i16x8_s(v, x2))
        d = i32x4.add(d, i32x4.dot_i16x8_s(v, x3))
        p = i32x4.add(p, i32x4.dot_i16x8_s(u, x0))
        q = i32x4.add(q, i32x4.dot_i16x8_s(u, x1))
        r = i32x4.add(r, i32x4.dot_i16x8_s(u, x2))
        s = i32x4.add(s, i32x4.dot_i16x8_s(u, x3))
        w += 4
        x += row
      }
    }
    const y = <usize>o * row
    store16(to + y, a, b, c, d, scales + o * 4, biases + o * 4, beside + y, kind)
    store16(to + y + row, p, q, r, s, scales + o * 4 + 4, biases + o * 4 + 4, beside + y + row, kind)
  }
}

// @ts-ignore: decorator
@inline
function store16(
  y: usize,
  a: v128,
  b: v128,
  c: v128,
  d: v128,
  scaleAt: usize,
  biasAt: usize,
  beside: usize,
  kind: i32,
): void {
  const scale = v128.load32_splat(scaleAt)
  const bias = v128.load32_splat(biasAt)
  a = add(bias, mul(scale, f32x4.convert_i32x4_s(a)))
  b = add(bias, mul(scale, f32x4.convert_i32x4_s(b)))
  c = add(bias, mul(scale, f32x4.convert_i32x4_s(c)))
  d = add(bias, mul(scale, f32x4.convert_i32x4_s(d)))
  if (kind > 0) {
    const leak = f32x4.splat(0.1)
    a = f32x4.max(a, mul(a, leak))
    b = f32x4.max(b, mul(b, leak))
    c = f32x4.max(c, mul(c, leak))
    d = f32x4.max(d, mul(d, leak))
  }
  if (kind > 1) {
    a = add(a, v128.load(beside))
    b = add(b, v128.load(beside, 16))
    c = add(c, v128.load(beside, 32))
    d = add(d, v128.load(beside, 48))
  }
  v128.store(y, a)
  v128.store(y, b, 16)
  v128.store(y, c, 32)
  v128.store(y, d, 48)
}

// ITU-R BS.1770-5, Annex 2: the interpolator of order 48; phases 2 and 3 are 1 and 0 backward
const TAPS: i32 = 12
const PHASE_0 = memory.data<f32>([
  0.001708984375, 0.010986328125, -0.0196533203125, 0.033203125, -0.0594482421875, 0.1373291015625, 0.97216796875,
  -0.102294921875, 0.047607421875, -0.026611328125, 0.014892578125, -0.00830078125,
])
const PHASE_1 = memory.data<f32>([
  -0.0291748046875, 0.029296875, -0.0517578125, 0.089111328125, -0.16650390625, 0.465087890625, 0.77978515625, -0.2003173828125,
  0.1015625, -0.0582275390625, 0.0330810546875, -0.0189208984375,
])

/**
 * Largest magnitude of each sample and of the four interpolated values next to it.
 *
 * @param samples of the first; five before it and six after the last are read
 * @param count a multiple of four
 */
export function between(samples: usize, count: i32, to: usize): void {
  for (let i = 0; i < count; i += 4) {
    const here = samples + <usize>(i * 4)
    let a = f32x4.splat(0)
    let b = a
    let c = a
    let d = a
    for (let t = 0; t < TAPS; t++) {
      const x = v128.load(here + (6 - t) * 4)
      a = add(a, mul(x, v128.load32_splat(PHASE_0 + t * 4)))
      b = add(b, mul(x, v128.load32_splat(PHASE_1 + t * 4)))
      c = add(c, mul(x, v128.load32_splat(PHASE_1 + (TAPS - 1 - t) * 4)))
      d = add(d, mul(x, v128.load32_splat(PHASE_0 + (TAPS - 1 - t) * 4)))
    }
    const most = f32x4.max(f32x4.max(f32x4.abs(a), f32x4.abs(b)), f32x4.max(f32x4.abs(c), f32x4.abs(d)))
    v128.store(to + <usize>(i * 4), f32x4.max(most, f32x4.abs(v128.load(here))))
  }
}

/** First byte that is free for the caller. */
export function free(): usize {
  return __heap_base
}
