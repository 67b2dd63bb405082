/** What every place of the author shares: events, keys for undo, left-behind recordings, a warning before unsaved text is lost. */
import { useEffect, useState } from 'react'
import { Outlet } from 'react-router'
import { toast } from 'sonner'
import { KeyList } from '#web/components/key-list.tsx'
import { useEvents } from '#web/data/events.ts'
import { redo, selectSaved, undo } from '#web/data/history.ts'
import { store, useAppDispatch } from '#web/data/store.ts'
import { resumeUploads } from '#web/recorder/upload.ts'

/** Inputs in which nothing is typed: keys mean there what they mean everywhere. */
const WITHOUT_TEXT = ['checkbox', 'radio', 'range', 'button', 'submit', 'reset', 'color', 'file', 'image']

/** Whether keys go into a text. A slider, a box or a choice has no undo of its own and takes no letters. */
export const isTyping = (target: EventTarget | null) =>
  target instanceof HTMLInputElement
    ? !WITHOUT_TEXT.includes(target.type)
    : target instanceof HTMLElement && (target.isContentEditable || target.tagName === 'TEXTAREA')

export function Author() {
  useEvents()
  const dispatch = useAppDispatch()
  const [keysShown, setKeysShown] = useState(false)
  useEffect(() => {
    void resumeUploads(() =>
      toast('A recording that was cut off has been recovered. It waits among the takes of its slide.', { duration: 12_000 }),
    )
  }, [])
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (isTyping(event.target)) return // a field has its own undo
      const combined = event.ctrlKey || event.metaKey
      if (combined && event.key.toLowerCase() === 'z') {
        event.preventDefault()
        void dispatch(event.shiftKey ? redo() : undo())
      } else if (event.key === '?') setKeysShown(true)
    }
    const onLeave = (event: BeforeUnloadEvent) => {
      if (selectSaved(store.getState()) !== 'saved') event.preventDefault()
    }
    window.addEventListener('keydown', onKey)
    window.addEventListener('beforeunload', onLeave)
    return () => {
      window.removeEventListener('keydown', onKey)
      window.removeEventListener('beforeunload', onLeave)
    }
  }, [dispatch])
  return (
    <>
      <Outlet />
      <KeyList open={keysShown} onClose={() => setKeysShown(false)} />
    </>
  )
}
