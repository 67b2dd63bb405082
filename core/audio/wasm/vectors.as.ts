/** Sums and products of four 32-bit floats, under short names. */

// @ts-ignore: decorator
@inline
export function add(a: v128, b: v128): v128 {
  return f32x4.add(a, b)
}
// @ts-ignore: decorator
@inline
export function sub(a: v128, b: v128): v128 {
  return f32x4.sub(a, b)
}
// @ts-ignore: decorator
@inline
export function mul(a: v128, b: v128): v128 {
  return f32x4.mul(a, b)
}
