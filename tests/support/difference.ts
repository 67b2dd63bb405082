/** How far two pictures are from each other: the mean over all values, in steps of 255. */
export function meanDifference(seen: ArrayLike<number>, wanted: ArrayLike<number>): number {
  let sum = 0
  for (let i = 0; i < seen.length; i++) sum += Math.abs(seen[i]! - wanted[i]!)
  return sum / seen.length
}
