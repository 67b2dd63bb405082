/** Fourier transform of real signals whose length is a power of two. */

export interface RealFft {
  readonly size: number
  /** Number of spectrum bins: size / 2 + 1. */
  readonly bins: number
  /** @param input `size` samples; @param re, im receive `bins` values, not scaled */
  forward(input: Float64Array, re: Float64Array, im: Float64Array): void
  /** The inverse of `forward`, scaled by 1 / size. @param output receives `size` samples */
  inverse(re: Float64Array, im: Float64Array, output: Float64Array): void
}

/**
 * In-place complex transform of zr, zi, whose values already stand in bit-reversed order: two radix-2 stages at a time,
 * which halves the way through memory.
 *
 * @param cos, sin of 2πi / (twice their length)
 */
function butterfliesOver(zr: Float64Array, zi: Float64Array, cos: Float64Array, sin: Float64Array): () => void {
  const half = zr.length
  return () => {
    let span = 1
    if (Math.log2(half) % 2 === 1) {
      for (let a = 0; a < half; a += 2) {
        const r = zr[a + 1]!
        const i = zi[a + 1]!
        zr[a + 1] = zr[a]! - r
        zi[a + 1] = zi[a]! - i
        zr[a] = zr[a]! + r
        zi[a] = zi[a]! + i
      }
      span = 2
    }
    for (; span < half; span *= 4) {
      const stride = half / (2 * span)
      for (let k = 0; k < span; k++) {
        const c1 = cos[2 * k * stride]!
        const s1 = sin[2 * k * stride]!
        const c2 = cos[k * stride]!
        const s2 = sin[k * stride]!
        for (let a = k; a < half; a += 4 * span) {
          const b = a + span
          const c = b + span
          const d = c + span
          const br = zr[b]! * c1 + zi[b]! * s1
          const bi = zi[b]! * c1 - zr[b]! * s1
          const dr = zr[d]! * c1 + zi[d]! * s1
          const di = zi[d]! * c1 - zr[d]! * s1
          const ar1 = zr[a]! + br
          const ai1 = zi[a]! + bi
          const br1 = zr[a]! - br
          const bi1 = zi[a]! - bi
          const cr = zr[c]! + dr
          const ci = zi[c]! + di
          const er = zr[c]! - dr
          const ei = zi[c]! - di
          const cr1 = cr * c2 + ci * s2
          const ci1 = ci * c2 - cr * s2
          // the twiddle of the other half is that of this one turned by −90°
          const dr1 = ei * c2 - er * s2
          const di1 = -(er * c2 + ei * s2)
          zr[a] = ar1 + cr1
          zi[a] = ai1 + ci1
          zr[c] = ar1 - cr1
          zi[c] = ai1 - ci1
          zr[b] = br1 + dr1
          zi[b] = bi1 + di1
          zr[d] = br1 - dr1
          zi[d] = bi1 - di1
        }
      }
    }
  }
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
  const butterflies = butterfliesOver(zr, zi, cos, sin)

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
