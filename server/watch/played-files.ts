/** Files of editions while they are played: of what a link opens, so much is remembered for a moment as each range of a video asks for. */
import type { Database } from '#server/db/database.ts'
import type { editionFiles, links } from '#server/db/schema.ts'
import type { Events } from '#server/events/events.ts'
import { editionFile } from './editions.ts'
import { closed, linkTo, mustAdmit, type Shown } from './links.ts'

/** What another process changes is known after so long; what this one changes at once. */
const REMEMBERED_MS = 5000
const MOST_REMEMBERED = 5000

interface Found {
  link: typeof links.$inferSelect
  file: typeof editionFiles.$inferSelect
}

/**
 * @returns a function that finds a file behind a link
 * @throws UserFacingError as the link says: (404) when it opens nothing, or there is no such file, (401) when something is wanted first
 */
export function playedFiles({ db, events }: { db: Database; events: Events }) {
  const known = new Map<string, { found: Promise<Found>; until: number }>()
  const byLecture = new Map<string, Set<string>>()
  // a link that was closed, an edition that was deleted
  events.listen((event) => {
    if (event.type !== 'lecture') return
    for (const key of byLecture.get(event.lectureId) ?? []) known.delete(key)
    byLecture.delete(event.lectureId)
  })
  async function find(key: string, token: string, editionId: string, name: string): Promise<Found> {
    const link = await linkTo(db.read, token, editionId)
    if (!link) throw closed()
    byLecture.set(link.lectureId, (byLecture.get(link.lectureId) ?? new Set()).add(key))
    return { link, file: await editionFile(db.read, editionId, name) }
  }
  return async (token: string, editionId: string, name: string, shown: Shown) => {
    const key = `${token} ${editionId} ${name}`
    let entry = known.get(key)
    if (!entry || entry.until < performance.now()) {
      entry = { found: find(key, token, editionId, name), until: performance.now() + REMEMBERED_MS }
      known.delete(key)
      known.set(key, entry)
      // what was not found is looked for anew
      entry.found.catch(() => known.delete(key))
      if (known.size > MOST_REMEMBERED) known.delete(known.keys().next().value!)
    }
    const { link, file } = await entry.found
    mustAdmit(link, shown)
    return file
  }
}
