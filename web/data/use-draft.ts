/** A text field that saves itself a moment after the last key, says truly whether it has, and writes over no other window's text unasked. */

import { useCallback, useEffect, useRef, useState } from 'react'
import { toast } from 'sonner'
import { say } from '#core/words/say.ts'
import { isProblem } from './api.ts'
import { type Command, type Edit, madeFrom } from './commands.ts'
import { drafted, draftSent, edit, noted } from './history.ts'
import { useAppDispatch } from './store.ts'

const WAIT_MS = 500
const RETRY_MS = 2000

/** Two windows have changed one text: the person says which of them stays. */
function askWhich(label: string, theirs: string, decide: (keepMine: boolean) => () => void) {
  toast.warning(say('Changed in another window meanwhile: {label}. There it reads:', { label }), {
    description: theirs === '' ? say('(nothing)') : theirs,
    action: { label: say('Keep mine'), onClick: decide(true) },
    cancel: { label: say('Take the other'), onClick: decide(false) },
  })
}

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
  /** The text before this spell of typing; null between them. */
  const before = useRef<string | null>(null)
  const pending = useRef<string | null>(null)
  /** The text that the server had when the one that is typed was begun, or that it was sent last. */
  const base = useRef<string | null>(null)
  /** Both texts wait for somebody to choose. */
  const undecided = useRef(false)
  const latest = useRef({ saved, toCommands })
  latest.current = { saved, toCommands }

  const flush = useCallback(async () => {
    clearTimeout(timer.current)
    const text = pending.current
    if (text === null || undecided.current) return
    const how = before.current === null ? 'step' : 'extend'
    before.current ??= latest.current.saved
    const { toCommands: commands } = latest.current
    const from = base.current ?? latest.current.saved
    const change: Edit = { lectureId, label, forth: madeFrom(commands(text), text, from), back: commands(before.current) }
    try {
      await dispatch(edit(change, how))
      base.current = text
      // typed on meanwhile: that text is saved by its own timer
      if (pending.current !== text) return
      pending.current = null
      base.current = null
      setDraft(null)
      dispatch(draftSent(field))
    } catch (error) {
      const theirs = isProblem(error) && error.status === 409 ? (error.data as { theirs?: string }).theirs : undefined
      if (theirs !== undefined) {
        undecided.current = true
        const decide = (keepMine: boolean) => () => {
          undecided.current = false
          // undo brings back the one that was not chosen
          before.current = theirs
          base.current = theirs
          if (keepMine) return void flush()
          const mine = pending.current ?? text
          dispatch(noted({ lectureId, label, forth: commands(theirs), back: commands(mine) }))
          pending.current = null
          setDraft(null)
          dispatch(draftSent(field))
        }
        return askWhich(label, theirs, decide)
      }
      timer.current = setTimeout(() => void flush(), RETRY_MS)
    }
  }, [dispatch, lectureId, label, field])

  useEffect(() => () => void flush(), [flush])

  return {
    text: draft ?? saved,
    type(text: string) {
      if (pending.current === null) base.current ??= latest.current.saved
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
