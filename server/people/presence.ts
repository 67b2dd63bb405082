/** Who looks at which lecture now. Kept in memory alone: pages say again and again that they are there, and are gone when they stop. */

import type { Here } from '#core/people/person.ts'

/** Pages say so every twenty seconds: one that missed two is gone. */
const HERE_FOR_MS = 45_000
/** So many pages are remembered; then those are forgotten that were not heard of for longest. */
const MOST_PAGES = 10_000

/** @param now milliseconds of a clock that only goes forward */
export function presence(now: () => number = () => performance.now()) {
  const pages = new Map<string, Here & { lectureId: string; until: number }>()
  // who spoke last stands last: the first that is still there ends the search
  const clear = () => {
    for (const [page, { until }] of pages) {
      if (until > now() && pages.size <= MOST_PAGES) return
      pages.delete(page)
    }
  }
  return {
    /** A page says where it is. @param page its own number @param here null: it goes */
    say(lectureId: string, page: string, here: Here | null) {
      pages.delete(page)
      if (here) pages.set(page, { ...here, lectureId, until: now() + HERE_FOR_MS })
      clear()
    },
    /** @returns everybody at a lecture, each once, with the slide of the page that spoke last */
    at(lectureId: string): Here[] {
      clear()
      const found = new Map<string, Here>()
      for (const { lectureId: at, until: _, ...here } of pages.values()) if (at === lectureId) found.set(here.personId, here)
      return [...found.values()]
    },
  }
}
export type Presence = ReturnType<typeof presence>
