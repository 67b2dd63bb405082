/** A school's server with people on it, each as a browser that keeps its cookies. */
import { randomBytes } from 'node:crypto'
import type { PersonRole } from '#core/people/rights.ts'
import { giveRight } from '#server/people/lecture-rights.ts'
import { createPerson } from '#server/people/people.ts'
import { openTestApp, type TestApp } from '#tests/api/harness.ts'
import { seedLecture } from '#tests/support/seed.ts'

export const PASSWORD = 'a long enough word'

/** Asks as one browser does: what it is told to keep it sends again. */
export function browser(app: TestApp, address = '127.0.0.1') {
  const kept = new Map<string, string>()
  const ask = async (path: string, init: RequestInit = {}) => {
    const cookie = [...kept].map(([name, value]) => `${name}=${value}`).join('; ')
    const headers = { ...(cookie ? { cookie } : {}), 'user-agent': 'Test browser', ...(init.headers as Record<string, string>) }
    const answer = await app.ask(path, { ...init, headers }, address)
    for (const line of answer.headers.getSetCookie()) {
      const [pair = ''] = line.split(';')
      const at = pair.indexOf('=')
      if (/max-age=0/i.test(line)) kept.delete(pair.slice(0, at))
      else kept.set(pair.slice(0, at), pair.slice(at + 1))
    }
    return answer
  }
  const json = (method: string, path: string, body: unknown = {}) =>
    ask(path, { method, headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) })
  const read = async <T = Record<string, unknown>>(path: string) => (await (await ask(path)).json()) as T
  const signIn = (email: string, password = PASSWORD) => json('POST', '/api/sign-in', { email, password })
  return { ask, json, read, signIn, kept, address }
}
export type Browser = ReturnType<typeof browser>

export async function openSchoolApp(options: Parameters<typeof openTestApp>[0] = {}) {
  const app = await openTestApp({ mode: 'school', ...options })
  const school = app.context.school!
  /** Somebody who is here, in a browser that is signed in. */
  async function person(role: PersonRole, name = `${role} ${randomBytes(3).toString('hex')}`) {
    const email = `${name.toLowerCase().replace(/[^a-z0-9]+/g, '-')}a@school.example`
    const { id } = await createPerson(school.library, app.context.db, { name, email, role, password: PASSWORD })
    const own = browser(app)
    const answer = await own.signIn(email)
    if (!answer.ok) throw new Error(await answer.text())
    return { ...own, id, email, name }
  }
  /** A lecture of four slides that somebody owns. */
  async function lectureOf(personId: string): Promise<string> {
    const id = await seedLecture(app.context.db, app.context.store, 'clouds')
    await app.context.db.write((tx) => giveRight(tx, id, personId, 'own'))
    return id
  }
  return { ...app, school, person, lectureOf, browser: (address?: string) => browser(app, address) }
}
