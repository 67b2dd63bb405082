/** Sums for the media tool's expressions: it refuses more than a hundred terms in a row, and takes any number in brackets. */

const MOST_IN_A_ROW = 50

/** @param terms at least one */
export function sumOf(terms: readonly string[]): string {
  if (terms.length <= MOST_IN_A_ROW) return terms.join('+')
  const groups: string[] = []
  for (let i = 0; i < terms.length; i += MOST_IN_A_ROW) groups.push(`(${terms.slice(i, i + MOST_IN_A_ROW).join('+')})`)
  return sumOf(groups)
}
