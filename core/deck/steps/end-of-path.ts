/** Where paths along which things move end. */
import { SVGPathData } from 'svg-pathdata'

/**
 * @param path letters as SVG has them, in shares of the slide; an `E` may stand at its end
 * @returns null for one that ends where it began, or that cannot be read
 * @see ECMA-376, part 1, §19.5.4 animMotion; OpenDocument 1.3, part 3, svg:path of anim:animateMotion
 */
export function endOfPath(path: string): { x: number; y: number } | null {
  try {
    const { commands } = new SVGPathData(path.trim().replace(/e$/i, '')).toAbs().normalizeHVZ(true)
    const last = commands.at(-1)
    return last && 'x' in last && 'y' in last && (last.x !== 0 || last.y !== 0) ? { x: last.x, y: last.y } : null
  } catch {
    return null
  }
}
