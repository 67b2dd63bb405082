/** Which stretches of a lecture were heard: intervals that are added up, so that nothing counts twice and what was jumped over does not count. */

/** Seconds of the lecture. */
export interface Stretch {
  start: number
  end: number
}

/** Stretches that lie nearer together than this are one: players tell their place in steps. */
const TOGETHER_S = 0.05

/**
 * @param heard in order, none touching another
 * @returns the same with one more
 */
export function withStretch(heard: readonly Stretch[], added: Stretch): Stretch[] {
  if (!(added.end > added.start)) return [...heard]
  const before = heard.filter(({ end }) => end < added.start - TOGETHER_S)
  const after = heard.filter(({ start }) => start > added.end + TOGETHER_S)
  const touched = heard.slice(before.length, heard.length - after.length)
  const start = Math.min(added.start, ...touched.map((one) => one.start))
  const end = Math.max(added.end, ...touched.map((one) => one.end))
  return [...before, { start, end }, ...after]
}

export const secondsOf = (heard: readonly Stretch[]): number => heard.reduce((sum, { start, end }) => sum + end - start, 0)

/** @returns 0 to 1 */
export const heardShare = (heard: readonly Stretch[], lengthSeconds: number): number =>
  lengthSeconds > 0 ? Math.min(1, secondsOf(heard) / lengthSeconds) : 0

const inTenths = (seconds: number) => Math.round(seconds * 10)
const written = (heard: readonly Stretch[]) =>
  heard.map(({ start, end }) => `${inTenths(start).toString(36)}-${inTenths(end).toString(36)}`).join(',')

/**
 * As a text that is no longer than a limit, in tenths of a second. Where there are too many, the shortest are left out: less counts as heard than
 * was, never more.
 */
export function packStretches(heard: readonly Stretch[], limit: number): string {
  let kept = heard.filter(({ start, end }) => inTenths(end) > inTenths(start))
  let text = written(kept)
  while (text.length > limit) {
    // as many at once as are surely too many
    const most = Math.max(1, Math.floor((kept.length * (text.length - limit)) / text.length))
    const shortest = new Set(kept.toSorted((a, b) => a.end - a.start - (b.end - b.start)).slice(0, most))
    kept = kept.filter((one) => !shortest.has(one))
    text = written(kept)
  }
  return text
}

/** @returns null for what is no such text */
export function unpackStretches(text: string): Stretch[] | null {
  if (text === '') return []
  let heard: Stretch[] = []
  for (const part of text.split(',')) {
    const [, start, end] = /^([0-9a-z]+)-([0-9a-z]+)$/.exec(part) ?? []
    if (start === undefined || end === undefined) return null
    const stretch = { start: Number.parseInt(start, 36) / 10, end: Number.parseInt(end, 36) / 10 }
    if (!(stretch.end > stretch.start)) return null
    heard = withStretch(heard, stretch)
  }
  return heard
}
