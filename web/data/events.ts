/** Hears what happens on the server and brings the pages up to date. */
import { useEffect } from 'react'
import type { LecternEvent } from '#server/events/events.ts'
import { api, type Job } from './api.ts'
import { isActive } from './job-state.ts'
import { useAppDispatch } from './store.ts'

/** @param isIn false where nobody has signed in yet */
export function useEvents(isIn: boolean) {
  const dispatch = useAppDispatch()
  useEffect(() => {
    if (!isIn) return
    const source = new EventSource('/api/events')
    // after a gap in the line nobody knows what was missed
    source.addEventListener('open', () =>
      dispatch(
        api.util.invalidateTags(['shelf', 'lecture', 'editions', 'jobs', 'recordings', 'comments', 'voiceLinks', 'answers']),
      ),
    )
    source.onmessage = ({ data }) => {
      const event = JSON.parse(data) as LecternEvent
      if (event.type === 'lecture') {
        dispatch((act, getState) => {
          // an edit on its way asks again when it has arrived; until then the server's answer is older than what is shown
          if (getState().history.saving > 0) return
          act(
            api.util.invalidateTags([
              { type: 'lecture', id: event.lectureId },
              { type: 'editions', id: event.lectureId },
              { type: 'recordings', id: event.lectureId },
              { type: 'comments', id: event.lectureId },
              { type: 'voiceLinks', id: event.lectureId },
              { type: 'answers', id: event.lectureId },
              'shelf',
              'estimates',
            ]),
          )
        })
        return
      }
      if (event.type === 'here') {
        const { lectureId, people } = event
        // of one lecture there is one list: the slide is not part of its name
        dispatch(api.util.updateQueryData('here', { lectureId, page: '', slideId: null }, (known) => ({ ...known, people })))
        return
      }
      const job = event.job as unknown as Job
      if (job.kind === 'pre-encode') {
        // nobody asked for it: only what it makes known is of interest
        if (!isActive(job)) dispatch(api.util.invalidateTags(['estimates']))
        return
      }
      dispatch(
        api.util.updateQueryData('jobs', undefined, (jobs) => {
          const known = jobs.findIndex((j) => j.id === job.id)
          if (known >= 0) jobs[known] = job
          else jobs.unshift(job)
        }),
      )
      // a list that was asked for before this job ended may still arrive and cover its end: ask once more after it
      if (!isActive(job)) dispatch(api.util.invalidateTags(['jobs']))
    }
    return () => source.close()
  }, [dispatch, isIn])
}
