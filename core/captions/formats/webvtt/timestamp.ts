/** Moments as WebVTT writes them. */

export const isDigit = (c: string | undefined) => c !== undefined && c >= '0' && c <= '9'

/** Position of the first character from `from` on that is no ASCII digit. */
export function skipDigits(text: string, from: number): number {
  let at = from
  while (isDigit(text[at])) at++
  return at
}

/**
 * "Collect a WebVTT timestamp".
 *
 * @returns seconds and the position after it; null when there is none
 * @see W3C WebVTT, §6.3
 */
export function collectTimestamp(text: string, from: number): { seconds: number; at: number } | null {
  let at = from
  const digits = () => {
    const start = at
    at = skipDigits(text, at)
    return text.slice(start, at)
  }
  const first = digits()
  if (first === '') return null
  const hasHours = first.length !== 2 || Number(first) > 59
  if (text[at++] !== ':') return null
  const second = digits()
  if (second.length !== 2) return null
  let [hours, minutes, seconds] = [0, Number(first), Number(second)]
  if (hasHours || text[at] === ':') {
    if (text[at++] !== ':') return null
    const third = digits()
    if (third.length !== 2) return null
    ;[hours, minutes, seconds] = [Number(first), Number(second), Number(third)]
  }
  if (text[at++] !== '.') return null
  const fraction = digits()
  if (fraction.length !== 3 || minutes > 59 || seconds > 59) return null
  // whole milliseconds first: the sum of a second and a fraction would not be the number that was written
  return { seconds: ((hours * 60 + minutes) * 60_000 + seconds * 1000 + Number(fraction)) / 1000, at }
}

/**
 * @param seconds 0 and above
 * @param comma what stands before the milliseconds
 * @returns `hh:mm:ss.mmm`, with more digits of hours where needed
 */
export function timestamp(seconds: number, comma: '.' | ',' = '.'): string {
  const ms = Math.round(seconds * 1000)
  const two = (n: number) => String(n).padStart(2, '0')
  const hours = Math.floor(ms / 3_600_000)
  return `${two(hours)}:${two(Math.floor(ms / 60_000) % 60)}:${two(Math.floor(ms / 1000) % 60)}${comma}${String(ms % 1000).padStart(3, '0')}`
}
