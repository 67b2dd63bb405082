/** A text field that saves itself a moment after the last key, says truly whether it has, and writes over no other window's text unasked. */

import { type RefObject, useCallback, useEffect, useRef, useState } from 'react'
import { toast } from 'sonner'
import { say } from '#core/words/say.ts'
import { isProblem } from '#web/data/api.ts'
import { type Command, type Edit, madeFrom } from '#web/data/commands.ts'
import { drafted, draftSent, edit, noted } from '#web/data/history.ts'
import { useAppDispatch } from '#web/data/store.ts'
import { keepPlace, together } from './draft-merge.ts'

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

/** What was typed and is not saved yet. */
interface Typed {
  /** The text before this spell of typing; null between them. */
  before: string | null
  pending: string | null
  /** The text that the server had when the one that is typed was begun, or that it was sent last. */
  base: string | null
  /** Both texts wait for somebody to choose. */
  isUndecided: boolean
}

/** What the other window wrote; undefined where something else went wrong. */
const theirsOf = (error: unknown) =>
  isProblem(error) && error.status === 409 ? (error.data as { theirs?: string }).theirs : undefined

interface Ways {
  label: string
  show(merged: string): void
  keepMine(): void
  takeTheirs(mine: string): void
}

/** Another window changed the text as well: both changes are put into one, or somebody says which stays. Undo takes one's own back. */
async function settle(typed: Typed, base: string, theirs: string, { label, show, keepMine, takeTheirs }: Ways) {
  const mine = typed.pending
  if (mine === null) return
  const merged = await together(base, mine, theirs)
  // typed on meanwhile: that is sent, and settled, by its own timer
  if (typed.pending !== mine) return
  if (merged !== null) {
    Object.assign(typed, { before: theirs, base: theirs, pending: merged } satisfies Partial<Typed>)
    keepPlace(mine, merged)
    show(merged)
    toast(say('Also changed in another window: {label}. Both changes are in it.', { label }))
    return
  }
  typed.isUndecided = true
  askWhich(label, theirs, (isMine) => () => {
    // undo brings back the one that was not chosen
    Object.assign(typed, { before: theirs, base: theirs, isUndecided: false } satisfies Partial<Typed>)
    if (isMine) keepMine()
    else takeTheirs(typed.pending ?? mine)
  })
}

type Timer = RefObject<ReturnType<typeof setTimeout> | undefined>

/** One after the other: what is sent next is made from what was sent last. @param timer of what would be sent later */
function useInTurn(send: () => Promise<void>, timer: Timer) {
  const last = useRef(Promise.resolve())
  return useCallback(() => {
    clearTimeout(timer.current)
    last.current = last.current.then(send)
    return last.current
  }, [send, timer])
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
  const typed = useRef<Typed>({ before: null, pending: null, base: null, isUndecided: false })
  const later = useRef<() => Promise<void>>(async () => {})
  const latest = useRef({ saved, toCommands })
  latest.current = { saved, toCommands }

  const send = useCallback(async () => {
    const own = typed.current
    const text = own.pending
    if (text === null || own.isUndecided) return
    const how = own.before === null ? 'step' : 'extend'
    own.before ??= latest.current.saved
    const { toCommands: commands } = latest.current
    const from = own.base ?? latest.current.saved
    const change: Edit = { lectureId, label, forth: madeFrom(commands(text), text, from), back: commands(own.before) }
    const sent = () => {
      own.pending = null
      setDraft(null)
      dispatch(draftSent(field))
    }
    try {
      await dispatch(edit(change, how))
      own.base = text
      // typed on meanwhile: that text is saved by its own timer
      if (own.pending !== text) return
      own.base = null
      sent()
    } catch (error) {
      const theirs = theirsOf(error)
      if (theirs === undefined) {
        timer.current = setTimeout(() => void later.current(), RETRY_MS)
        return
      }
      void settle(own, from, theirs, {
        label,
        show: (merged) => {
          setDraft(merged)
          void later.current()
        },
        keepMine: () => void later.current(),
        takeTheirs(mine) {
          dispatch(noted({ lectureId, label, forth: commands(theirs), back: commands(mine) }))
          sent()
        },
      })
    }
  }, [dispatch, lectureId, label, field])
  const flush = useInTurn(send, timer)
  later.current = flush

  useEffect(() => () => void flush(), [flush])

  return {
    text: draft ?? saved,
    type(text: string) {
      if (typed.current.pending === null) typed.current.base ??= latest.current.saved
      setDraft(text)
      typed.current.pending = text
      dispatch(drafted(field))
      clearTimeout(timer.current)
      timer.current = setTimeout(() => void flush(), WAIT_MS)
    },
    /** Saves now; the next key begins a new step for undo. */
    leave() {
      void flush().then(() => {
        typed.current.before = null
      })
    },
  }
}
