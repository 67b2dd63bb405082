/** What somebody looks after of their own: passkeys, sessions, what is known of them. */

import { and, desc, eq, ne } from 'drizzle-orm'
import { type Context, Hono } from 'hono'
import type { AppContext } from '#server/context/context.ts'
import { accounts, auditEntries, lectureMembers, passkeys, people, sessions, spaceMembers } from '#server/db/people-schema.ts'
import { lectures } from '#server/db/schema.ts'
import type { WhoAsks } from '#server/http/permissions/who-may.ts'
import { noteAlone } from '#server/people/audit.ts'
import { roomOf } from '#server/people/quotas.ts'
import { headersFor, schoolOf } from './sign-in-parts.ts'

type Env = { Variables: WhoAsks }

export const meRoutes = (context: AppContext) => {
  const { db } = context
  /** Routes here are for who signed in: there is somebody. */
  const me = (c: Context<Env>) => c.get('person')!

  return (
    new Hono<Env>()
      .get('/me/proofs', async (c) => {
        const { id } = me(c)
        const current = await schoolOf(context).library.api.getSession({ headers: headersFor(c) })
        const own = await db.read.select().from(sessions).where(eq(sessions.personId, id)).orderBy(desc(sessions.updatedAt))
        const keys = await db.read.select().from(passkeys).where(eq(passkeys.personId, id))
        const [row] = await db.read.select().from(people).where(eq(people.id, id))
        const byPassword = and(eq(accounts.personId, id), eq(accounts.providerId, 'credential'))
        return c.json({
          hasPassword: (await db.read.$count(accounts, byPassword)) > 0,
          hasCodes: row?.twoFactorEnabled ?? false,
          passkeys: keys.map((key) => ({ id: key.id, name: key.name ?? '', createdAt: key.createdAt?.getTime() ?? 0 })),
          sessions: own.map((session) => ({
            id: session.id,
            isThis: session.id === current?.session.id,
            userAgent: session.userAgent ?? '',
            address: session.ipAddress ?? '',
            seenAt: session.updatedAt.getTime(),
          })),
        })
      })
      .put('/me/passkeys/:id/deleted', async (c) => {
        const own = and(eq(passkeys.id, c.req.param('id')), eq(passkeys.personId, me(c).id))
        await db.write((tx) => tx.delete(passkeys).where(own))
        return c.json({})
      })
      .put('/me/sessions/:id/ended', async (c) => {
        const own = and(eq(sessions.id, c.req.param('id')), eq(sessions.personId, me(c).id))
        await db.write((tx) => tx.delete(sessions).where(own))
        schoolOf(context).forget()
        return c.json({})
      })
      // everywhere but here
      .post('/me/sessions/ended', async (c) => {
        const school = schoolOf(context)
        const current = await school.library.api.getSession({ headers: headersFor(c) })
        const others = and(eq(sessions.personId, me(c).id), ne(sessions.id, current?.session.id ?? ''))
        await db.write((tx) => tx.delete(sessions).where(others))
        school.forget()
        await noteAlone(db, me(c).id, 'signed-out')
        return c.json({})
      })
      .get('/me/room', async (c) => c.json(await roomOf(db.read, me(c).id)))
      // all that is known of somebody
      .get('/me/data', async (c) => {
        const { id } = me(c)
        const [row] = await db.read.select().from(people).where(eq(people.id, id))
        const { twoFactorEnabled: _, emailVerified: __, image: ___, ...person } = row!
        const owned = await db.read
          .select({ id: lectures.id, title: lectures.title, right: lectureMembers.right })
          .from(lectureMembers)
          .innerJoin(lectures, eq(lectures.id, lectureMembers.lectureId))
          .where(eq(lectureMembers.personId, id))
        const data = {
          person,
          lectures: owned,
          spaces: await db.read.select().from(spaceMembers).where(eq(spaceMembers.personId, id)),
          sessions: await db.read
            .select({ address: sessions.ipAddress, userAgent: sessions.userAgent, createdAt: sessions.createdAt })
            .from(sessions)
            .where(eq(sessions.personId, id)),
          done: await db.read.select().from(auditEntries).where(eq(auditEntries.personId, id)),
        }
        c.header('content-disposition', 'attachment; filename="my-data.json"')
        return c.json(data)
      })
  )
}
