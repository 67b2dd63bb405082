/** Whether what a camera gave came at one rate, and which: then each of its pictures is a frame of its own. */

export interface SteadyRate {
  /** Frames a second, as a fraction. */
  rate: [number, number]
  /** Moment of the first frame, seconds; a little before or after the first picture came. */
  beginsSeconds: number
}

/** So many of all pictures lie near their frames. */
const MOST = 0.97
/** Near: within this share of the distance between two. */
const NEAR = 0.3
const [LEAST_RATE, MOST_RATE] = [5, 30.5]
/** Fewer tell nothing. */
const LEAST_PICTURES = 10
/** A rate is given as a fraction of this: within an hour that is off by a millisecond. */
const PER = 100_000

/** The line through points, by least squares. */
function fitted(points: readonly (readonly [x: number, y: number])[]): { slope: number; at: number } {
  const n = points.length
  const [meanX, meanY] = [0, 1].map((i) => points.reduce((sum, point) => sum + point[i]!, 0) / n) as [number, number]
  let [above, below] = [0, 0]
  for (const [x, y] of points) {
    above += (x - meanX) * (y - meanY)
    below += (x - meanX) ** 2
  }
  const slope = above / below
  return { slope, at: meanY - slope * meanX }
}

/** Of two whole numbers. */
export const greatestDivisor = (a: number, b: number): number => (b === 0 ? a : greatestDivisor(b, a % b))

/**
 * @param times of pictures, seconds, in order; some may be missing or come a little early or late
 * @returns a rate of at most thirty frames a second, of which quicker ones are a multiple; null where they came at changing distances
 */
export function steadyRate(times: readonly number[]): SteadyRate | null {
  if (times.length < LEAST_PICTURES) return null
  const distances = times.slice(1).map((time, i) => time - times[i]!)
  const usual = distances.toSorted((a, b) => a - b)[distances.length >> 1]!
  if (!(usual > 0)) return null
  let index = 0
  const points = times.map((time, i) => {
    if (i > 0) index += Math.round(distances[i - 1]! / usual)
    return [index, time] as const
  })
  const { slope, at } = fitted(points)
  if (!(slope > 0)) return null
  const near = points.filter(([x, y]) => Math.abs(y - at - x * slope) <= NEAR * slope).length
  if (near < MOST * points.length) return null
  const perSecond = 1 / slope / Math.ceil(1 / slope / MOST_RATE)
  if (perSecond < LEAST_RATE) return null
  const frames = Math.round(perSecond * PER)
  const shared = greatestDivisor(frames, PER)
  return { rate: [frames / shared, PER / shared], beginsSeconds: at }
}
