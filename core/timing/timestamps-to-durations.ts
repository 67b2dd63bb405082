/** Between moments of change and lengths: the subtraction that nobody should do by hand. */

/**
 * Lengths of slides from the moments at which the presenter moved on.
 *
 * @param moments ascending moments of change in seconds, without the start
 * @param end the end of the last slide, in seconds
 * @returns one length a slide, in seconds
 * @throws RangeError naming the first moment that does not come after the one before it
 */
export function timestampsToDurations(moments: readonly number[], end: number): number[] {
  let before = 0
  return [...moments, end].map((moment, i) => {
    if (!(moment > before)) {
      throw new RangeError(`Moment ${i + 1} (${moment} s) does not come after ${before} s. Put the moments in order.`)
    }
    const length = moment - before
    before = moment
    return length
  })
}

/** The way back: moments of change and the end, from lengths. All in seconds. */
export function durationsToTimestamps(lengths: readonly number[]): { moments: number[]; end: number } {
  let at = 0
  const sums = lengths.map((length) => {
    at += length
    return at
  })
  return { moments: sums.slice(0, -1), end: at }
}
