/** Looks whether a text stands on the page whose letters do not ship with it; only then what knows more of them is loaded. */

const WAIT_MS = 300
/** Latin, Greek, Cyrillic and Arabic letters ship with the page. */
const FURTHER = /[\u0530-\u05FF\u0700-\u1DFF\u2E80-\uFAFF\u{20000}-\u{3FFFF}]/u

/** From now on. */
export function fetchFurtherLetters() {
  let isWaiting = false
  const look = async () => {
    isWaiting = false
    const text = document.body.textContent ?? ''
    if (FURTHER.test(text)) (await import('./script-fonts.ts')).fetchMissingLetters(text)
  }
  const soon = () => {
    if (isWaiting) return
    isWaiting = true
    setTimeout(() => void look(), WAIT_MS)
  }
  new MutationObserver(soon).observe(document.body, { subtree: true, childList: true, characterData: true })
  soon()
}
