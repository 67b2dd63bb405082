/** Fourier transform of real signals whose length is a power of two. */

export interface RealFft {
  readonly size: number
  /** Number of spectrum bins: size / 2 + 1. */
  readonly bins: number
  /** @param input `size` samples; @param re, im receive `bins` values, not scaled */
  forward(input: Float32Array | Float64Array, re: Float64Array, im: Float64Array): void
  /** The inverse of `forward`, scaled by 1 / size. @param output receives `size` samples */
  inverse(re: Float64Array, im: Float64Array, output: Float64Array): void
}

/**
 * A real transform computed as a complex one of half the size.
 *
 * @param size a power of two, 4 or more
 * @see Cooley & Tukey 1965; packing of a real signal into half a complex one: Press et al., Numerical Recipes, §12.3
 */
export function realFft(size: number): RealFft {
  if (size < 4 || (size & (size - 1)) !== 0) throw new RangeError(`The transform's size must be a power of two, got ${size}.`)
  const half = size / 2
  const cos = new Float64Array(half)
  const sin = new Float64Array(half)
  for (let i = 0; i < half; i++) {
    cos[i] = Math.cos((2 * Math.PI * i) / size)
    sin[i] = Math.sin((2 * Math.PI * i) / size)
  }
  const reversed = new Uint32Array(half)
  for (let i = 1; i < half; i++) reversed[i] = (reversed[i >> 1]! >> 1) | (i & 1 ? half >> 1 : 0)
  const zr = new Float64Array(half)
  const zi = new Float64Array(half)

  /** In-place complex transform of zr, zi, whose values already stand in bit-reversed order. */
  function butterflies() {
    for (let span = 1; span < half; span *= 2) {
      const stride = half / span
      for (let start = 0; start < half; start += span * 2) {
        for (let k = 0; k < span; k++) {
          const c = cos[k * stride]!
          const s = sin[k * stride]!
          const a = start + k
          const b = a + span
          const tr = zr[b]! * c + zi[b]! * s
          const ti = zi[b]! * c - zr[b]! * s
          zr[b] = zr[a]! - tr
          zi[b] = zi[a]! - ti
          zr[a] = zr[a]! + tr
          zi[a] = zi[a]! + ti
        }
      }
    }
  }

  return {
    size,
    bins: half + 1,
    forward(input, re, im) {
      for (let i = 0; i < half; i++) {
        const r = reversed[i]!
        zr[r] = input[2 * i]!
        zi[r] = input[2 * i + 1]!
      }
      butterflies()
      re[0] = zr[0]! + zi[0]!
      im[0] = 0
      re[half] = zr[0]! - zi[0]!
      im[half] = 0
      for (let k = 1; k < half; k++) {
        const n = half - k
        const er = (zr[k]! + zr[n]!) / 2
        const ei = (zi[k]! - zi[n]!) / 2
        const or = (zi[k]! + zi[n]!) / 2
        const oi = (zr[n]! - zr[k]!) / 2
        re[k] = er + or * cos[k]! + oi * sin[k]!
        im[k] = ei + oi * cos[k]! - or * sin[k]!
      }
    },
    inverse(re, im, output) {
      for (let k = 0; k < half; k++) {
        const n = half - k
        const er = (re[k]! + re[n]!) / 2
        const ei = (im[k]! - im[n]!) / 2
        const dr = (re[k]! - re[n]!) / 2
        const di = (im[k]! + im[n]!) / 2
        const or = dr * cos[k]! - di * sin[k]!
        const oi = di * cos[k]! + dr * sin[k]!
        const r = reversed[k]!
        // the conjugate goes in, so that the forward butterflies give the inverse
        zr[r] = er - oi
        zi[r] = -(ei + or)
      }
      butterflies()
      for (let i = 0; i < half; i++) {
        output[2 * i] = zr[i]! / half
        output[2 * i + 1] = -zi[i]! / half
      }
    },
  }
}
