/** Finds imports that run in a circle. */

/**
 * Tarjan's algorithm for strongly connected components: "Depth-first search and linear graph algorithms", SIAM Journal on Computing 1 (1972).
 *
 * @param edges what each place imports
 * @returns groups of places of which each leads to every other, the smallest first; empty where nothing runs in a circle
 */
export function circles(edges: ReadonlyMap<string, ReadonlySet<string>>): string[][] {
  const order = new Map<string, number>()
  const lowest = new Map<string, number>()
  const path: string[] = []
  const onPath = new Set<string>()
  const found: string[][] = []
  function visit(place: string) {
    order.set(place, order.size)
    lowest.set(place, order.get(place)!)
    path.push(place)
    onPath.add(place)
    for (const next of edges.get(place) ?? []) {
      if (!order.has(next)) visit(next)
      if (onPath.has(next)) lowest.set(place, Math.min(lowest.get(place)!, lowest.get(next)!))
    }
    if (lowest.get(place) !== order.get(place)) return
    const group = path.splice(path.indexOf(place))
    for (const member of group) onPath.delete(member)
    if (group.length > 1) found.push(group.sort())
  }
  for (const place of edges.keys()) if (!order.has(place)) visit(place)
  return found.sort((a, b) => a.length - b.length)
}
