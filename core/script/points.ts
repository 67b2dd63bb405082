/** Points to speak from, in the place of a script: their words are not what is said. */

/** What begins a point. A dash may begin a line of dialogue as well: one alone is none. */
const BULLET = /^\s*([•◦▪‣⁃*·–—-])\s+(.*)$/u
const DASHES = new Set(['–', '—', '-', '*'])

/**
 * The points of a script: every line begins with a bullet or a dash, but for indented lines that go on with the one before.
 *
 * @returns their words without bullets, in order; null where the script is a text that is read out
 */
export function pointsOf(script: string): string[] | null {
  const points: string[] = []
  let dashes = 0
  for (const line of script.split('\n')) {
    if (line.trim() === '') continue
    const found = BULLET.exec(line)
    if (found) {
      points.push(found[2]!.trim())
      if (DASHES.has(found[1]!)) dashes++
    } else if (points.length > 0 && /^\s/.test(line)) points[points.length - 1] += ` ${line.trim()}`
    else return null
  }
  const said = points.filter((point) => point !== '')
  return said.length > 1 || (said.length === 1 && dashes === 0) ? said : null
}

/** What of a script is read out: nothing where it is points. */
export const textOf = (script: string) => (pointsOf(script) === null ? script : '')
