/** A lecture as it is shown at this moment: for what is finished after an answer has come, when it may be another than it was. */
import type { Lecture } from '#core/model/lecture.ts'
import { api } from './api.ts'
import { store } from './store.ts'

export const lectureNow = (id: string): Lecture | undefined => api.endpoints.lecture.select(id)(store.getState()).data
