/** Numbers of items in lists, as decks of either kind have them. */

const LETTERS = 'abcdefghijklmnopqrstuvwxyz'
function roman(n: number): string {
  const parts: [number, string][] = [
    [100, 'c'],
    [90, 'xc'],
    [50, 'l'],
    [40, 'xl'],
    [10, 'x'],
    [9, 'ix'],
    [5, 'v'],
    [4, 'iv'],
    [1, 'i'],
  ]
  let [rest, out] = [n, '']
  for (const [value, letters] of parts) {
    while (rest >= value) {
      out += letters
      rest -= value
    }
  }
  return out
}

/** @param n from 1 @returns in small letters */
export const numeral = (kind: 'digits' | 'letters' | 'roman', n: number): string =>
  kind === 'letters' ? (LETTERS[(n - 1) % 26] ?? '') : kind === 'roman' ? roman(n) : String(n)
