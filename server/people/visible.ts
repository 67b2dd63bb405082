/** What of lists and events is for whoever asks. */
import type { Person } from '#core/people/person.ts'
import { holds, type Right } from '#core/people/rights.ts'
import type { Database } from '#server/db/database.ts'
import type { Events, LecternEvent } from '#server/events/events.ts'
import { allRights, changeRights, giveRight, peopleOf, rightsVersion } from './lecture-rights.ts'
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
  if (person) await changeRights(db, (tx) => giveRight(tx, lectureId, person.id, 'own'))
}

/** What was changed by another process, such as the command line, is known after so long. */
const REMEMBERED_MS = 5000
const MOST_REMEMBERED = 10_000

/** Who listens, by the person; null for all where one person is alone. */
type Listener = (event: LecternEvent) => void

/**
 * Brings events to those who may see what they are about. Many events come while many people listen: who may see a lecture is looked up
 * once for all of them, and anew when anybody's rights have changed.
 *
 * @returns a way to listen, which returns how to end
 */
export function audience(context: Place & { events: Events }): (person: Person | null, listener: Listener) => () => void {
  const listeners = new Map<string | null, Set<Listener>>()
  const known = new Map<string, { people: Promise<Set<string>>; version: number; until: number }>()
  const whoSees = (lectureId: string): Promise<Set<string>> => {
    const entry = known.get(lectureId)
    if (entry && entry.version === rightsVersion() && entry.until > performance.now()) return entry.people
    const people = peopleOf(context.db.read, lectureId)
    known.delete(lectureId)
    known.set(lectureId, { people, version: rightsVersion(), until: performance.now() + REMEMBERED_MS })
    if (known.size > MOST_REMEMBERED) known.delete(known.keys().next().value!)
    return people
  }
  const bring = (event: LecternEvent, whose: string | null) => {
    for (const listener of listeners.get(whose) ?? []) listener(event)
  }
  // one after the other, as they came
  let last: Promise<unknown> = Promise.resolve()
  context.events.listen((event) => {
    if (listeners.size === 0) return
    if (!context.school) return bring(event, null)
    const lectureId = event.type === 'job' ? event.job.aboutLectureId : event.lectureId
    if (lectureId === null) return
    last = last
      .then(async () => {
        for (const personId of await whoSees(lectureId)) bring(event, personId)
      })
      .catch((error) => console.error('An event could not be told:', error))
  })
  return (person, listener) => {
    const whose = person?.id ?? null
    listeners.set(whose, (listeners.get(whose) ?? new Set()).add(listener))
    return () => {
      const of = listeners.get(whose)
      of?.delete(listener)
      if (of?.size === 0) listeners.delete(whose)
    }
  }
}
