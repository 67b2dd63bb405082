/** A `details` element as a menu: it closes by Esc, by a press outside it, and when the focus goes elsewhere, as to a dialog. */
import { type RefObject, useEffect, useRef, useState } from 'react'

interface ClosingDetails {
  details: RefObject<HTMLDetailsElement | null>
  open: boolean
  /** For `onToggle`. */
  onToggle: () => void
  close: () => void
}

export function useClosingDetails(): ClosingDetails {
  const details = useRef<HTMLDetailsElement>(null)
  const [open, setOpen] = useState(false)
  useEffect(() => {
    // it listens while it is closed as well: between its opening and the next drawing of the page the focus may have gone already
    const close = (event: Event) => {
      if (!details.current?.open) return
      const isAway = event instanceof KeyboardEvent ? event.key === 'Escape' : !details.current.contains(event.target as Node)
      if (!isAway) return
      // closed by its key, the menu leaves the focus on what opened it
      if (event instanceof KeyboardEvent && details.current.contains(document.activeElement))
        details.current.querySelector('summary')?.focus()
      details.current.removeAttribute('open')
    }
    const events = ['pointerdown', 'keydown', 'focusin']
    for (const name of events) document.addEventListener(name, close)
    return () => {
      for (const name of events) document.removeEventListener(name, close)
    }
  }, [])
  return {
    details,
    open,
    onToggle: () => setOpen(details.current?.open ?? false),
    close: () => details.current?.removeAttribute('open'),
  }
}
