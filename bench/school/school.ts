/** A built server as a school has it, with many people and a lecture each, for benches. */
import { randomUUID } from 'node:crypto'
import { rmSync } from 'node:fs'
import { inArray } from 'drizzle-orm'
import { configFrom } from '#server/config/config.ts'
import { type Database, openDatabase } from '#server/db/database.ts'
import { accounts, people, serverKeys } from '#server/db/people-schema.ts'
import { slides } from '#server/db/schema.ts'
import { giveRight } from '#server/people/lecture-rights.ts'
import { signInLibrary } from '#server/people/sign-in.ts'
import { folderStore } from '#server/storage/file-store.ts'
import { type ServerProcess, serverProcess } from '#tests/support/processes/server-process.ts'
import { seedLecture } from '#tests/support/seed.ts'
import { benchFolder } from './measure.ts'

const PASSWORD = 'a long enough word'
const SECRET = 'of the bench'

export interface BenchTeacher {
  lectureId: string
  slideIds: string[]
  cookie: string
}

async function addPeople(db: Database, count: number): Promise<{ email: string; id: string }[]> {
  await db.write((tx) => tx.insert(serverKeys).values({ name: 'sign-in', value: SECRET }))
  const library = signInLibrary(configFrom({ LECTERN_MODE: 'school' }, ''), db, SECRET)
  // one hash for all: it is made as slowly as it is meant to be
  const password = await (await library.$context).password.hash(PASSWORD)
  const all = Array.from({ length: count }, (_, i) => ({ id: randomUUID(), email: `teacher${i}@school.example` }))
  const now = new Date()
  await db.write(async (tx) => {
    for (const { id, email } of all) {
      await tx.insert(people).values({ id, email, name: email, role: 'teacher', createdAt: now, updatedAt: now })
      const account = { id: randomUUID(), personId: id, accountId: id, providerId: 'credential', password }
      await tx.insert(accounts).values({ ...account, createdAt: now, updatedAt: now })
    }
  })
  return all
}

async function cookieOf(address: string, email: string): Promise<string> {
  const answer = await fetch(`${address}/api/sign-in`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ email, password: PASSWORD }),
  })
  if (!answer.ok) throw new Error(`Nobody could sign in: ${await answer.text()}`)
  return answer.headers
    .getSetCookie()
    .map((line) => line.split(';')[0])
    .join('; ')
}

/** @param use is given the server and its teachers, who are signed in */
export async function withSchool<T>(
  teachers: number,
  use: (server: ServerProcess, teachers: BenchTeacher[]) => Promise<T>,
): Promise<T> {
  const dataFolder = benchFolder()
  const db = await openDatabase(dataFolder)
  const known = await addPeople(db, teachers)
  const lectureIds: string[] = []
  for (const { id, email } of known) {
    const lectureId = await seedLecture(db, folderStore(dataFolder), email)
    await db.write((tx) => giveRight(tx, lectureId, id, 'own'))
    lectureIds.push(lectureId)
  }
  const rows = await db.read
    .select({ id: slides.id, lectureId: slides.lectureId })
    .from(slides)
    .where(inArray(slides.lectureId, lectureIds))
  db.close()
  const server = await serverProcess(dataFolder, { LECTERN_MODE: 'school' })
  try {
    await server.start()
    const cookies: string[] = []
    for (const { email } of known) cookies.push(await cookieOf(server.address, email))
    const own = (lectureId: string) => rows.filter((row) => row.lectureId === lectureId).map(({ id }) => id)
    return await use(
      server,
      lectureIds.map((lectureId, i) => ({ lectureId, slideIds: own(lectureId), cookie: cookies[i]! })),
    )
  } finally {
    if (server.isRunning()) await server.kill()
    rmSync(dataFolder, { recursive: true, force: true })
  }
}
