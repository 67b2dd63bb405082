/** A text field that saves itself a moment after the last key, and says truly whether it has. */
import { useCallback, useEffect, useRef, useState } from 'react'
import type { Command, Edit } from './edits/commands.ts'
import { drafted, draftSent, edit } from './edits/history.ts'
import { useAppDispatch } from './store.ts'

const WAIT_MS = 500
const RETRY_MS = 2000

/**
 * @param field a name no other field has
 * @param saved the text as the server has it
 * @param toCommands what says a text to the server; given the text as it was before, what puts it back
 */
export function useDraft(
  lectureId: string,
  field: string,
  label: string,
  saved: string,
  toCommands: (text: string) => Command[],
) {
  const dispatch = useAppDispatch()
  const [draft, setDraft] = useState<string | null>(null)
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined)
  /** The text before this sitting; null between sittings. */
  const before = useRef<string | null>(null)
  const pending = useRef<string | null>(null)
  const latest = useRef({ saved, toCommands })
  latest.current = { saved, toCommands }

  const flush = useCallback(async () => {
    clearTimeout(timer.current)
    const text = pending.current
    if (text === null) return
    const how = before.current === null ? 'step' : 'extend'
    before.current ??= latest.current.saved
    const { toCommands: commands } = latest.current
    const change: Edit = { lectureId, label, forth: commands(text), back: commands(before.current) }
    try {
      await dispatch(edit(change, how))
      // typed on meanwhile: that text is saved by its own timer
      if (pending.current !== text) return
      pending.current = null
      setDraft(null)
      dispatch(draftSent(field))
    } catch {
      timer.current = setTimeout(() => void flush(), RETRY_MS)
    }
  }, [dispatch, lectureId, label, field])

  useEffect(() => () => void flush(), [flush])

  return {
    text: draft ?? saved,
    type(text: string) {
      setDraft(text)
      pending.current = text
      dispatch(drafted(field))
      clearTimeout(timer.current)
      timer.current = setTimeout(() => void flush(), WAIT_MS)
    },
    /** Saves now; the next key begins a new step for undo. */
    leave() {
      void flush().then(() => {
        before.current = null
      })
    },
  }
}
