/**
 * Whether single letters and signs work as keys in this browser. Who speaks to a computer, or whose hands tremble, turns them off.
 *
 * @see WCAG 2.2, success criterion 2.1.4
 */
const KEY = 'letter keys'
const OFF = 'off'

export function lettersAreKeys(): boolean {
  try {
    return localStorage.getItem(KEY) !== OFF
  } catch {
    // a page opened from a disk may not be allowed to remember anything
    return true
  }
}

export function chooseLetterKeys(on: boolean) {
  try {
    if (on) localStorage.removeItem(KEY)
    else localStorage.setItem(KEY, OFF)
  } catch {
    // then it holds for nobody
  }
}
