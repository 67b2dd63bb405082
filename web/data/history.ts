/** What was edited, what waits to be saved, undo and redo. */

import { createSlice, original, type PayloadAction, type ThunkDispatch, type UnknownAction } from '@reduxjs/toolkit'
import { toast } from 'sonner'
import { say } from '#core/words/say.ts'
import { api, sentenceOf } from './api.ts'
import { apply, type Command, type Edit, send } from './commands.ts'

const MOST_STEPS = 200

const KEPT = 'edits'

/** Edits of this tab from before it was loaded again. */
function keptEdits(): { past: Edit[]; future: Edit[] } {
  try {
    const kept = JSON.parse(sessionStorage.getItem(KEPT) ?? '') as { past: Edit[]; future: Edit[] }
    return { past: kept.past, future: kept.future }
  } catch {
    return { past: [], future: [] }
  }
}

/** Keeps the edits for when the tab is loaded again; where they are too many for the browser, the newest. */
export function keepEdits({ past, future }: { past: readonly Edit[]; future: readonly Edit[] }) {
  for (let steps = past.length; steps >= 0; steps = Math.floor(steps / 2)) {
    try {
      sessionStorage.setItem(KEPT, JSON.stringify({ past: past.slice(past.length - steps), future }))
      return
    } catch {
      if (steps === 0) return
    }
  }
}

const slice = createSlice({
  name: 'history',
  initialState: { ...keptEdits(), saving: 0, drafts: [] as string[], failed: null as string | null },
  reducers: {
    done(state, { payload }: PayloadAction<Edit>) {
      state.past = [...state.past, payload].slice(-MOST_STEPS)
      state.future = []
    },
    moved(state, { payload }: PayloadAction<'back' | 'forth'>) {
      const edit = payload === 'back' ? state.past.pop() : state.future.pop()
      if (edit) (payload === 'back' ? state.future : state.past).push(edit)
    },
    /** A newer text of the same field replaces the step before it: one undo takes back one spell of typing. */
    extended(state, { payload }: PayloadAction<Edit>) {
      const last = state.past.at(-1)
      const same = last && JSON.stringify(last.back) === JSON.stringify(payload.back)
      state.past = [...(same ? state.past.slice(0, -1) : state.past), payload].slice(-MOST_STEPS)
      state.future = []
    },
    /** The server refused it: there is nothing to take back. */
    refused(state, { payload }: PayloadAction<Edit>) {
      state.past = (original(state)?.past ?? []).filter((edit) => edit !== payload)
    },
    savingBegan: (state) => void state.saving++,
    savingEnded(state, { payload }: PayloadAction<string | null>) {
      state.saving--
      state.failed = payload
    },
    /** A field holds what is not yet on its way to the server. */
    drafted(state, { payload }: PayloadAction<string>) {
      if (!state.drafts.includes(payload)) state.drafts.push(payload)
    },
    draftSent(state, { payload }: PayloadAction<string>) {
      state.drafts = state.drafts.filter((field) => field !== payload)
    },
  },
})

export const historyReducer = slice.reducer
/** Of the store, what edits read and change. */
type WithHistory = { history: ReturnType<typeof historyReducer> } & {
  [K in typeof api.reducerPath]: ReturnType<typeof api.reducer>
}
type Dispatch = ThunkDispatch<WithHistory, unknown, UnknownAction>
export const { drafted, draftSent } = slice.actions

/** Notes an edit that the server has made already, such as something added, so that it can be undone. */
export const noted = slice.actions.done

let last: Promise<unknown> = Promise.resolve()

/** Commands that are shown before the server has them. */
interface Shown {
  lectureId: string
  commands: readonly Command[]
  /** Takes them from view again, in the order of doing. */
  undo: (() => void)[]
  isRefused: boolean
}

function show(dispatch: Dispatch, { lectureId, commands, undo }: Shown) {
  for (const command of commands)
    undo.push(dispatch(api.util.updateQueryData('lecture', lectureId, (lecture) => apply(lecture, command))).undo)
}

/** For each answer that is on its way, what was edited since it was asked for. */
const duringAnswers = new Set<Shown[]>()
api.enhanceEndpoints({
  endpoints: {
    lecture: {
      // such an answer is older than those edits: it would take them from view until the next one comes
      async onQueryStarted(lectureId, { dispatch, queryFulfilled }) {
        const made: Shown[] = []
        duringAnswers.add(made)
        const hasCome = await queryFulfilled.then(
          () => true,
          () => false,
        )
        duringAnswers.delete(made)
        if (!hasCome) return
        for (const shown of made) {
          if (shown.lectureId !== lectureId || shown.isRefused) continue
          // what took it from the earlier view is not for this one
          shown.undo = []
          show(dispatch, shown)
        }
      },
    },
  },
})

/** Sends commands in the order they were made; shows them at once and takes them back from view when the server refuses. */
const perform = (lectureId: string, commands: Command[]) => (dispatch: Dispatch, getState: () => WithHistory) => {
  const shown: Shown = { lectureId, commands, undo: [], isRefused: false }
  show(dispatch, shown)
  for (const made of duringAnswers) made.push(shown)
  dispatch(slice.actions.savingBegan())
  const saved = last.then(async () => {
    for (const command of commands) await send(lectureId, command)
  })
  last = saved.catch(() => {})
  return saved.then(
    () => {
      dispatch(slice.actions.savingEnded(null))
      // with another edit on its way, what the server would say now is older than what is shown
      const stale = [{ type: 'lecture', id: lectureId } as const, { type: 'editions', id: lectureId } as const, 'shelf' as const]
      if (getState().history.saving === 0) dispatch(api.util.invalidateTags(stale))
    },
    (error) => {
      shown.isRefused = true
      for (const undo of shown.undo.reverse()) undo()
      dispatch(slice.actions.savingEnded(sentenceOf(error)))
      throw error
    },
  )
}

/**
 * Makes an edit that can be undone.
 *
 * @param how 'extend' joins it to the step before, for text that is being typed
 */
export const edit =
  (change: Edit, how: 'step' | 'extend' = 'step') =>
  async (dispatch: Dispatch) => {
    // noted before it is saved: an undo that follows at once means this edit
    dispatch(how === 'extend' ? slice.actions.extended(change) : slice.actions.done(change))
    try {
      await dispatch(perform(change.lectureId, change.forth))
    } catch (error) {
      dispatch(slice.actions.refused(change))
      throw error
    }
  }

/** Like `edit`, for edits made by a button: a refusal is told. */
export const editOrTell = (change: Edit) => async (dispatch: Dispatch) => {
  await dispatch(edit(change)).catch((error) => toast.error(sentenceOf(error)))
}

const move = (direction: 'back' | 'forth') => async (dispatch: Dispatch, getState: () => WithHistory) => {
  const { past, future } = getState().history
  const change = (direction === 'back' ? past : future).at(-1)
  if (!change) {
    toast(direction === 'back' ? say('Nothing to undo.') : say('Nothing to redo.'))
    return
  }
  dispatch(slice.actions.moved(direction))
  try {
    await dispatch(perform(change.lectureId, change[direction]))
    toast(`${direction === 'back' ? say('Undone') : say('Redone')}: ${change.label}`)
  } catch (error) {
    dispatch(slice.actions.moved(direction === 'back' ? 'forth' : 'back'))
    toast.error(sentenceOf(error))
  }
}
/** What would be taken back, and what made again; null for nothing. */
export const selectSteps = ({ history }: WithHistory) => ({
  back: history.past.at(-1)?.label ?? null,
  forth: history.future.at(-1)?.label ?? null,
})

export const undo = () => move('back')
export const redo = () => move('forth')

/** True only when nothing is typed, waiting or on its way. */
export const selectSaved = ({ history }: WithHistory): 'saved' | 'saving' | 'failed' => {
  if (history.failed) return 'failed'
  return history.saving > 0 || history.drafts.length > 0 ? 'saving' : 'saved'
}
