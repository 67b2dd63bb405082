/** A school to look at: an administrator, two teachers who share a course, a reviewer, and a class with a link. All of them are invented. */

import { eq } from 'drizzle-orm'
import type { Person } from '#core/people/person.ts'
import type { PersonRole } from '#core/people/rights.ts'
import type { Database } from '#server/db/database.ts'
import { people } from '#server/db/people-schema.ts'
import { editions, links, slides } from '#server/db/schema.ts'
import { DEMO_ID } from '#server/jobs/make-demo.ts'
import { addComment } from '#server/people/comments.ts'
import { giveRight } from '#server/people/lecture-rights.ts'
import { createPerson } from '#server/people/people.ts'
import type { School } from '#server/people/school.ts'
import { layIntoSpace, makeSpace, setSpaceMember } from '#server/people/spaces.ts'
import type { JobQueue } from '#server/queue/queue.ts'
import { makeLink } from '#server/watch/links.ts'

export const SCHOOL_PASSWORD = 'clouds and rain'
const PEOPLE: [name: string, email: string, role: PersonRole][] = [
  ['Ines Ward', 'ines@school.example', 'administrator'],
  ['Mira Holt', 'mira@school.example', 'teacher'],
  ['Jonas Feld', 'jonas@school.example', 'teacher'],
  ['Tove Lind', 'tove@school.example', 'reviewer'],
]

/** A reviewer's word on the slide where something is said twice, and one on the deck as a whole. */
async function comment(db: Database, teacher: Person, reviewer: Person) {
  const rows = await db.read.select().from(slides).where(eq(slides.lectureId, DEMO_ID)).orderBy(slides.position)
  const [first, , , fourth] = rows
  if (!first || !fourth) return
  const place = { slideId: fourth.id, takeId: fourth.keptTakeId, at: 12.5 }
  const text = 'Here you say it twice; once is enough.'
  const answerTo = await addComment(db, reviewer, DEMO_ID, { ...place, text, answerTo: null })
  await addComment(db, teacher, DEMO_ID, { ...place, text: 'You are right. I will cut the first one.', answerTo })
  const whole = { slideId: first.id, takeId: null, at: null, text: 'Say at the start how long it takes.', answerTo: null }
  await addComment(db, reviewer, DEMO_ID, whole)
}

/** Makes what of the school is not there yet, and says how to come in. @param ended waits for a job */
export async function fillSchool(
  { db, school }: { db: Database; school: School },
  queue: JobQueue,
  ended: (jobId: string) => Promise<void>,
) {
  if ((await db.read.$count(people)) === 0) {
    const made = []
    for (const [name, email, role] of PEOPLE)
      made.push(await createPerson(school.library, db, { name, email, role, password: SCHOOL_PASSWORD }))
    const [, mira, jonas, tove] = made as [never, (typeof made)[0], (typeof made)[0], (typeof made)[0]]
    const spaceId = await makeSpace(db, mira, 'Weather, year 7')
    await setSpaceMember(db, mira, spaceId, jonas.id, 'edit')
    await db.write(async (tx) => {
      await giveRight(tx, DEMO_ID, mira.id, 'own')
      await giveRight(tx, DEMO_ID, tove.id, 'comment')
    })
    await layIntoSpace(db, mira, DEMO_ID, spaceId)
    await comment(db, mira, tove)
  }
  if ((await db.read.$count(editions, eq(editions.lectureId, DEMO_ID))) === 0) {
    console.log('Publishing the demo lecture for its class.')
    await ended((await queue.add('publish', DEMO_ID, { lectureId: DEMO_ID })).id)
    await makeLink(db, DEMO_ID, 'Class 7b')
  }
  const [link] = await db.read.select().from(links).where(eq(links.name, 'Class 7b'))
  console.log(`\nPeople of the demo school, all with the password “${SCHOOL_PASSWORD}”:`)
  for (const [name, email, role] of PEOPLE) console.log(`  ${email.padEnd(22)} ${name}, ${role}`)
  if (link) console.log(`The class watches at /watch/${link.token}\n`)
}
