import { configureStore } from '@reduxjs/toolkit'
import { setupListeners } from '@reduxjs/toolkit/query'
import { useDispatch, useSelector } from 'react-redux'
import { api } from './api.ts'
import { historyReducer, keepEdits } from './history.ts'

export const store = configureStore({
  reducer: { [api.reducerPath]: api.reducer, history: historyReducer },
  middleware: (standard) => standard({ serializableCheck: false }).concat(api.middleware),
})
setupListeners(store.dispatch)

let kept = store.getState().history
store.subscribe(() => {
  const { history } = store.getState()
  if (history.past !== kept.past || history.future !== kept.future) keepEdits(history)
  kept = history
})

export type RootState = ReturnType<typeof store.getState>
export type AppDispatch = typeof store.dispatch
export const useAppDispatch = useDispatch.withTypes<AppDispatch>()
export const useAppSelector = useSelector.withTypes<RootState>()
