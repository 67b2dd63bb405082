/** Frames next to each other. */
export interface Run {
  start: number
  /** One past the last. */
  end: number
}

/** @returns runs of the frames that are so, in order, from a frame on up to another */
export function runsOf(is: (frame: number) => boolean, from: number, to: number): Run[] {
  const runs: Run[] = []
  for (let n = from; n < to; n++) {
    if (!is(n)) continue
    const last = runs.at(-1)
    if (last?.end === n) last.end++
    else runs.push({ start: n, end: n + 1 })
  }
  return runs
}
