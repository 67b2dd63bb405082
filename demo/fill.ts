/** Fills an empty data folder with the demo lecture. */

import { and, eq, inArray } from 'drizzle-orm'
import { unpacked } from '#core/words/packed.ts'
import { say } from '#core/words/say.ts'
import { fillSchool } from '#demo/school.ts'
import { openApp } from '#server/app.ts'
import { configFrom } from '#server/config/config.ts'
import { jobs, lectures } from '#server/db/schema.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { DEMO_ID } from '#server/jobs/make-demo.ts'

const opened = await openApp(configFrom(process.env, '')).catch((error) => {
  console.error(error instanceof UserFacingError ? error.message : error)
  process.exit(1)
})
const { db } = opened.context

async function ended(jobId: string) {
  for (let said = ''; ; ) {
    const [job] = await db.read.select().from(jobs).where(eq(jobs.id, jobId))
    if (job?.state === 'failed')
      throw new Error(`The demo could not be made: ${job.error === null ? '' : say(unpacked(job.error))}`)
    if (job?.state === 'done' || job?.state === 'cancelled') return
    if (job?.stage && job.stage !== said) {
      said = job.stage
      console.log(`  ${say(unpacked(said))}`)
    }
    await new Promise((resolve) => setTimeout(resolve, 50))
  }
}

const shelf = await db.read.select().from(lectures)
if (shelf.length === 0 || shelf.some((lecture) => lecture.id === DEMO_ID)) {
  if (shelf.length === 0) console.log('Filling the shelf with the demo lecture. This is done once and takes about half a minute.')
  const making = await opened.queue.add('demo', null, { lectureId: DEMO_ID })
  await ended(making.id)
  // what is still at work; what failed or was cancelled long ago is no reason to wait, or not to open
  while (await db.read.$count(jobs, and(inArray(jobs.kind, ['tidy', 'bed']), inArray(jobs.state, ['queued', 'running']))))
    await new Promise((resolve) => setTimeout(resolve, 50))
}
const { school } = opened.context
if (school) await fillSchool({ db, school }, opened.queue, ended)
await opened.close()
process.exit(0)
