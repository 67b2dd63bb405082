/** Pages that build up: the next one shows all of the one before, and something more. */

export interface SmallPicture {
  /** Red, green and blue in turn. */
  rgb: Uint8Array
  width: number
  height: number
}

/** Levels two drawings of the same thing may differ by. */
const SAME = 24
/** Fewer changed pixels than this part are a page number, not a step. */
const LEAST_ADDED = 0.002
/** What of the changed pixels may have stood on something: the edges of letters. */
const MOST_COVERED = 0.06
/** The next page is mostly the page before. */
const MOST_CHANGED = 0.6

/** The colour that most of a picture has, in steps of sixteen levels. */
function ground({ rgb }: SmallPicture): [number, number, number] {
  const counts = new Map<number, number>()
  for (let i = 0; i < rgb.length; i += 3) {
    const key = ((rgb[i]! >> 4) << 8) | ((rgb[i + 1]! >> 4) << 4) | (rgb[i + 2]! >> 4)
    counts.set(key, (counts.get(key) ?? 0) + 1)
  }
  let [best, most] = [0, 0]
  for (const [key, count] of counts) if (count > most) [best, most] = [key, count]
  return [((best >> 8) & 15) * 16 + 8, ((best >> 4) & 15) * 16 + 8, (best & 15) * 16 + 8]
}

/** @returns whether the later page only adds to the earlier one; false for pages of unlike sizes and for the same page twice */
export function buildsOn(earlier: SmallPicture, later: SmallPicture): boolean {
  if (earlier.width !== later.width || earlier.height !== later.height) return false
  const empty = ground(earlier)
  const [a, b] = [earlier.rgb, later.rgb]
  let [changed, covered] = [0, 0]
  for (let i = 0; i < a.length; i += 3) {
    const differs =
      Math.abs(a[i]! - b[i]!) > SAME || Math.abs(a[i + 1]! - b[i + 1]!) > SAME || Math.abs(a[i + 2]! - b[i + 2]!) > SAME
    if (!differs) continue
    changed++
    const wasEmpty =
      Math.abs(a[i]! - empty[0]) <= SAME && Math.abs(a[i + 1]! - empty[1]) <= SAME && Math.abs(a[i + 2]! - empty[2]) <= SAME
    if (!wasEmpty) covered++
  }
  const pixels = earlier.width * earlier.height
  return changed >= LEAST_ADDED * pixels && changed <= MOST_CHANGED * pixels && covered <= MOST_COVERED * changed
}
