/** What of lists and events is for whoever asks. */
import type { Person } from '#core/people/person.ts'
import { holds, type Right } from '#core/people/rights.ts'
import type { Database } from '#server/db/database.ts'
import type { LecternEvent } from '#server/events/events.ts'
import { allRights, giveRight, rightTo } from './lecture-rights.ts'
import type { School } from './school.ts'

/** Where people may sign in. */
interface Place {
  db: Database
  school: School | null
}

/** @returns rights to lectures by their ids; null where one person is alone and has all */
export async function rightsOf({ db, school }: Place, person: Person | null): Promise<Map<string, Right> | null> {
  if (!school) return null
  return person ? allRights(db.read, person) : new Map()
}

/** @returns whether a lecture is for somebody with these rights */
export const isFor = (rights: ReadonlyMap<string, Right> | null, lectureId: string | null, needed: Right = 'see') =>
  rights === null || (lectureId !== null && holds(rights.get(lectureId) ?? null, needed))

/** Who makes a lecture owns it, from before it is there. */
export async function ownFromNowOn({ db }: Pick<Place, 'db'>, person: Person | null, lectureId: string) {
  if (person) await db.write((tx) => giveRight(tx, lectureId, person.id, 'own'))
}

const REMEMBERED_MS = 5000

/** @returns whether an event is for somebody; what was found is remembered for a moment, since many come at once */
export function hears(context: Place, person: Person | null): (event: LecternEvent) => Promise<boolean> {
  const known = new Map<string, { isIn: Promise<boolean>; until: number }>()
  return async (event) => {
    if (!context.school) return true
    const lectureId = event.type === 'job' ? event.job.aboutLectureId : event.lectureId
    if (!person || lectureId === null) return false
    const entry = known.get(lectureId)
    if (entry && entry.until > performance.now()) return entry.isIn
    const isIn = rightTo(context.db.read, person, lectureId).then((right) => right !== null)
    known.set(lectureId, { isIn, until: performance.now() + REMEMBERED_MS })
    return isIn
  }
}
