/** Which characters a file of letters can draw, as short text: gaps and lengths of ranges, in base 36. */

/** @param codes of characters, in any order @returns "gap.length,…": the first gap from 0, a length of one left out */
export function encodeRanges(codes: readonly number[]): string {
  const sorted = [...new Set(codes)].sort((a, b) => a - b)
  const parts: string[] = []
  let end = 0
  for (let i = 0; i < sorted.length; ) {
    const start = sorted[i]!
    let length = 1
    while (sorted[i + length] === start + length) length++
    parts.push(`${(start - end).toString(36)}${length === 1 ? '' : `.${length.toString(36)}`}`)
    end = start + length
    i += length
  }
  return parts.join(',')
}

/** @param found is given each range, from its first character to its last */
export function decodeRanges(text: string, found: (first: number, last: number) => void) {
  let end = 0
  for (const part of text.split(',').filter(Boolean)) {
    const [gap, length = '1'] = part.split('.')
    const first = end + Number.parseInt(gap!, 36)
    end = first + Number.parseInt(length, 36)
    found(first, end - 1)
  }
}
