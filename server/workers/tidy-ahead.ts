/** Tidying of a take that has just ended begins while it is being sealed: whoever recorded it is waiting. */
import { isDeepStrictEqual } from 'node:util'
import type { Mark } from '#core/lecture.ts'
import type { Workers } from './pool.ts'
import type { TidyOutput } from './worker.ts'

export interface TidyAhead {
  /** @param samples of the whole take */
  begin(takeId: string, samples: Int16Array, marks: readonly Mark[]): void
  /** Whatever is under way for a take is not wanted. */
  drop(takeId: string): void
  /** @returns what was begun for a fresh take with these marks, once; null where nothing was, or where it failed */
  finish(takeId: string, marks: readonly Mark[], signal: AbortSignal): Promise<TidyOutput | null>
}

export function tidyAhead(workers: Pick<Workers, 'tidy'>): TidyAhead {
  const begun = new Map<string, { marks: readonly Mark[]; made: Promise<TidyOutput | null>; abort: AbortController }>()
  function take(takeId: string) {
    const entry = begun.get(takeId)
    begun.delete(takeId)
    return entry
  }
  const drop = (takeId: string) => take(takeId)?.abort.abort()
  return {
    begin(takeId, samples, marks) {
      drop(takeId)
      const abort = new AbortController()
      // a failure is told by the job, which then tries by itself
      const made = workers.tidy({ samples, analysis: null, tidyUp: null, marks }, abort.signal).catch(() => null)
      begun.set(takeId, { marks, made, abort })
    },
    drop,
    async finish(takeId, marks, signal) {
      const entry = take(takeId)
      if (!entry) return null
      if (!isDeepStrictEqual(entry.marks, marks)) {
        entry.abort.abort()
        return null
      }
      const give = () => entry.abort.abort()
      signal.addEventListener('abort', give, { once: true })
      try {
        return await entry.made
      } finally {
        signal.removeEventListener('abort', give)
      }
    },
  }
}
