/** Waits for jobs that a page has begun; one that failed is told, and what one that is done has to say. */

import { useCallback } from 'react'
import { toast } from 'sonner'
import { say } from '#core/words/say.ts'
import { api, type Job } from './api.ts'
import { isActive } from './job-state.ts'
import { store } from './store.ts'

const jobsNow = api.endpoints.jobs.select()

/** @returns a function that calls back when a job is done; it works after the page that began it is left */
export function useJobEnd(): (job: Pick<Job, 'id'>, done: (job: Job) => void) => void {
  return useCallback((job, done) => {
    // the list is kept alive until the job has ended
    const kept = store.dispatch(api.endpoints.jobs.initiate())
    const look = () => {
      const now = jobsNow(store.getState()).data?.find((j) => j.id === job.id)
      if (!now || isActive(now)) return
      stop()
      kept.unsubscribe()
      if (now.state === 'failed') toast.error(now.error ? say(now.error) : say('This did not work. Try it again.'))
      if (now.state !== 'done') return
      if (now.result && 'note' in now.result && now.result.note) toast(say(now.result.note))
      done(now)
    }
    const stop = store.subscribe(look)
    look()
  }, [])
}
