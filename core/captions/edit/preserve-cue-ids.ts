/** Names of captions that were made again: what points to a caption goes on pointing to it. */

/**
 * Captions whose text stays keep their names; those between two of them that changed take over the names there, in order.
 *
 * @param before in order
 * @param made in order
 * @param newName gives a name nothing has
 * @returns one name a made caption, none twice
 */
export function preserveCueIds(
  before: readonly { id: string; text: string }[],
  made: readonly { text: string }[],
  newName: () => string,
): string[] {
  const names: (string | null)[] = made.map(() => null)
  /** Place among those before of each made caption that stayed. */
  const anchors: { made: number; before: number }[] = []
  let from = 0
  for (const [i, { text }] of made.entries()) {
    const at = before.findIndex((cue, j) => j >= from && cue.text === text)
    if (at < 0) continue
    anchors.push({ made: i, before: at })
    names[i] = before[at]!.id
    from = at + 1
  }
  const ends = [{ made: -1, before: -1 }, ...anchors, { made: made.length, before: before.length }]
  for (const [i, next] of ends.entries()) {
    const last = ends[i - 1]
    if (!last) continue
    const free = before.slice(last.before + 1, next.before)
    for (let j = last.made + 1; j < next.made; j++) names[j] = free.shift()?.id ?? null
  }
  return names.map((name) => name ?? newName())
}
