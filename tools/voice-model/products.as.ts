/** Products of matrices in AssemblyScript, for training: 4 × 8 values of the result at a time. */

// @ts-ignore: decorator
@inline
function splat(at: usize): v128 {
  return v128.load32_splat(at)
}

/**
 * C += A · B. All strides in bytes.
 *
 * @param a value (i, k) of A stands at `a + i * aRow + k * aColumn`
 * @param b value (k, j) of B stands at `b + k * bRow + 4 j`
 * @param c value (i, j) of C stands at `c + i * cRow + 4 j`
 * @param m rows of A, a multiple of 4
 * @param n columns of B, a multiple of 4
 */
export function addProduct(
  a: usize,
  aRow: usize,
  aColumn: usize,
  b: usize,
  bRow: usize,
  c: usize,
  cRow: usize,
  m: i32,
  depth: i32,
  n: i32,
): void {
  for (let i = 0; i < m; i += 4) {
    const a0 = a + <usize>i * aRow
    const a1 = a0 + aRow
    const a2 = a1 + aRow
    const a3 = a2 + aRow
    const c0 = c + <usize>i * cRow
    const c1 = c0 + cRow
    const c2 = c1 + cRow
    const c3 = c2 + cRow
    let j: usize = 0
    const wide = <usize>(n & ~7) * 4
    for (; j < wide; j += 32) {
      let p0 = v128.load(c0 + j)
      let q0 = v128.load(c0 + j, 16)
      let p1 = v128.load(c1 + j)
      let q1 = v128.load(c1 + j, 16)
      let p2 = v128.load(c2 + j)
      let q2 = v128.load(c2 + j, 16)
      let p3 = v128.load(c3 + j)
      let q3 = v128.load(c3 + j, 16)
      let from = b + j
      let step: usize = 0
      for (let k = 0; k < depth; k++) {
        const x = v128.load(from)
        const y = v128.load(from, 16)
        let v = splat(a0 + step)
        p0 = f32x4.add(p0, f32x4.mul(v, x))
        q0 = f32x4.add(q0, f32x4.mul(v, y))
        v = splat(a1 + step)
        p1 = f32x4.add(p1, f32x4.mul(v, x))
        q1 = f32x4.add(q1, f32x4.mul(v, y))
        v = splat(a2 + step)
        p2 = f32x4.add(p2, f32x4.mul(v, x))
        q2 = f32x4.add(q2, f32x4.mul(v, y))
        v = splat(a3 + step)
        p3 = f32x4.add(p3, f32x4.mul(v, x))
        q3 = f32x4.add(q3, f32x4.mul(v, y))
        from += bRow
        step += aColumn
      }
      v128.store(c0 + j, p0)
      v128.store(c0 + j, q0, 16)
      v128.store(c1 + j, p1)
      v128.store(c1 + j, q1, 16)
      v128.store(c2 + j, p2)
      v128.store(c2 + j, q2, 16)
      v128.store(c3 + j, p3)
      v128.store(c3 + j, q3, 16)
    }
    if (n & 4) {
      let p0 = v128.load(c0 + j)
      let p1 = v128.load(c1 + j)
      let p2 = v128.load(c2 + j)
      let p3 = v128.load(c3 + j)
      let from = b + j
      let step: usize = 0
      for (let k = 0; k < depth; k++) {
        const x = v128.load(from)
        p0 = f32x4.add(p0, f32x4.mul(splat(a0 + step), x))
        p1 = f32x4.add(p1, f32x4.mul(splat(a1 + step), x))
        p2 = f32x4.add(p2, f32x4.mul(splat(a2 + step), x))
        p3 = f32x4.add(p3, f32x4.mul(splat(a3 + step), x))
        from += bRow
        step += aColumn
      }
      v128.store(c0 + j, p0)
      v128.store(c1 + j, p1)
      v128.store(c2 + j, p2)
      v128.store(c3 + j, p3)
    }
  }
}
