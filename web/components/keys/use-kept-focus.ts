/** Whoever works by keyboard keeps their place: where what had the focus goes or is disabled, the nearest thing that stays has it. */
import { useEffect } from 'react'

const canHaveFocus = (element: Element) => element.isConnected && !element.matches(':disabled')

/** The nearest of what an element stood in that is still there; the page's content where all of it is gone. */
function nearest(path: readonly Element[]): HTMLElement | null {
  const stays = path.find((element) => element.isConnected && element.closest('main, [role="dialog"]'))
  return (stays as HTMLElement | undefined) ?? document.querySelector('main')
}

function pathOf(element: Element): Element[] {
  const path: Element[] = []
  for (let at = element.parentElement; at; at = at.parentElement) path.push(at)
  return path
}

/** WCAG 2.2, 2.4.3 "Focus Order": an order that begins anew at the top of the page after each press is none. */
export function useKeptFocus() {
  useEffect(() => {
    let last: HTMLElement | null = null
    let path: Element[] = []
    /** What has the focus in its place. */
    let stand: HTMLElement | null = null
    let wasDisabled = false
    const onFocus = ({ target }: FocusEvent) => {
      if (target === stand || !(target instanceof HTMLElement)) return
      last = target
      path = pathOf(target)
      stand = null
      wasDisabled = false
    }
    const onBlur = ({ target, relatedTarget }: FocusEvent) => {
      // a press beside everything takes the focus away on purpose
      const isOnPurpose = relatedTarget === null && target === last && !wasDisabled
      if (isOnPurpose)
        queueMicrotask(() => {
          if (last && canHaveFocus(last)) last = null
        })
    }
    const look = () => {
      if (!last) return
      const has = document.activeElement
      const isLost = has === null || has === document.body
      if (canHaveFocus(last)) {
        // it was disabled while something was done, and can be pressed again
        if ((stand !== null && has === stand) || (isLost && wasDisabled)) last.focus({ preventScroll: true })
        return
      }
      if (last.isConnected) wasDisabled = true
      // browsers take the focus away from what is disabled when they draw next
      if (has === last) return void requestAnimationFrame(look)
      if (!isLost) return
      stand = nearest(path)
      if (!stand) return
      if (!stand.hasAttribute('tabindex')) stand.tabIndex = -1
      stand.focus({ preventScroll: true })
    }
    const observer = new MutationObserver(look)
    observer.observe(document.body, { subtree: true, childList: true, attributes: true, attributeFilter: ['disabled'] })
    document.addEventListener('focusin', onFocus)
    document.addEventListener('focusout', onBlur)
    return () => {
      observer.disconnect()
      document.removeEventListener('focusin', onFocus)
      document.removeEventListener('focusout', onBlur)
    }
  }, [])
}
