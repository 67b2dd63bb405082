/** Keys of a page, in one place: when a press counts, and what it is called. */
import { useLayoutEffect } from 'react'
import { isDialogOpen } from '#web/components/is-dialog-open.ts'
import { lettersAreKeys } from './letter-keys.ts'

/** Inputs in which nothing is typed: keys mean there what they mean everywhere. */
const WITHOUT_TEXT = ['checkbox', 'radio', 'range', 'button', 'submit', 'reset', 'color', 'file', 'image']

/** Whether keys go into a text. A slider, a box or a choice has no undo of its own and takes no letters. */
export const isTyping = (target: EventTarget | null) =>
  target instanceof HTMLInputElement
    ? !WITHOUT_TEXT.includes(target.type)
    : target instanceof HTMLElement && (target.isContentEditable || target.tagName === 'TEXTAREA')

/** What has the space bar for itself, and what arrows and letters as well. */
const TAKES_SPACE = 'input, select, button, a, summary, [role="application"], [role="slider"]'
const TAKES_LETTERS = 'input, select, [role="application"], [role="slider"]'

/** How a press is called in a table of keys: `r`, `escape`, `space`, `mod+z`, `shift+mod+z`; `mod` is Ctrl, or ⌘. */
export function nameOfKey({ key, ctrlKey, metaKey, altKey, shiftKey }: KeyboardEvent): string {
  const bare = key === ' ' ? 'space' : key.toLowerCase()
  const held = [
    // on a character of its own, Shift is how it is typed
    ...(shiftKey && (bare.length > 1 || ctrlKey || metaKey) ? ['shift'] : []),
    ...(ctrlKey || metaKey ? ['mod'] : []),
    ...(altKey ? ['alt'] : []),
  ]
  return [...held, bare].join('+')
}

export type PageKeys = Readonly<Record<string, ((event: KeyboardEvent) => void) | undefined>>

/** Whether something on the page has this press for itself. */
function isTaken({ target, defaultPrevented }: KeyboardEvent, name: string, everywhere: boolean): boolean {
  // an open dialog has the keys to itself
  if (defaultPrevented || isTyping(target) || isDialogOpen()) return true
  if (!(target instanceof Element)) return false
  if (name === 'space') return target.closest(TAKES_SPACE) !== null
  return !everywhere && !name.includes('+') && target.closest(TAKES_LETTERS) !== null
}

/**
 * Keys that work wherever focus is, except where it is typed and where the focused control has them for itself.
 *
 * @param keys by their names (`nameOfKey`)
 * @param everywhere also with focus on a choice, a slider or a list; held down a key counts once then, and Esc leaves a text
 */
export function usePageKeys(keys: PageKeys, { everywhere = false } = {}) {
  // with the picture, and not after it: a key that is pressed the moment a button shows that it can be counts
  useLayoutEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const name = nameOfKey(event)
      const act = keys[name]
      if (act && everywhere && name === 'escape' && isTyping(event.target)) (event.target as HTMLElement).blur()
      if (!act || (everywhere && event.repeat) || isTaken(event, name, everywhere)) return
      if (name.length === 1 && !lettersAreKeys()) return
      event.preventDefault()
      act(event)
    }
    window.addEventListener('keydown', onKey)
    return () => window.removeEventListener('keydown', onKey)
  })
}
