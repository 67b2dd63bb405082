/** People, as an administrator looks after them, and what was done. */

import { type Context, Hono } from 'hono'
import { z } from 'zod'
import { Quota } from '#core/people/quota.ts'
import { PERSON_ROLES } from '#core/people/rights.ts'
import type { AppContext } from '#server/context/context.ts'
import { languageOf } from '#server/http/language-of.ts'
import type { WhoAsks } from '#server/http/permissions/who-may.ts'
import { NOTHING_TO_CHANGE, notEmpty, validate } from '#server/http/validate.ts'
import { readUpkeep } from '#server/maintenance/upkeep.ts'
import { auditCsv, readAudit } from '#server/people/audit.ts'
import { invite, inviteToReset } from '#server/people/invitations.ts'
import { erasePerson, handAllOver, readPeople, setLeft, setRole } from '#server/people/people.ts'
import { readQuotas, setQuota } from '#server/people/quotas.ts'
import { invitationLetter, type Letter, passwordLetter } from '#server/people/sign-in/mail.ts'
import { keptAs } from '#server/storage/zip-stream.ts'
import { joinLink, schoolOf } from './sign-in-parts.ts'

type Env = { Variables: WhoAsks }
const Role = z.enum(PERSON_ROLES)
const Invitation = z.strictObject({ role: Role, email: z.union([z.email(), z.literal('')]), spaceId: z.string().nullable() })

export const peopleRoutes = (context: AppContext) => {
  const { db } = context
  const by = (c: Context<Env>) => c.get('person')!
  /** @returns whether the mail server took it; null where none is set up, or nobody's address is known */
  const mailed = async (letter: Letter) => (await context.school?.mail?.send(letter)) ?? null
  /** What is remembered of who asks may be wrong from now on. */
  const forget = () => context.school?.forget()
  return (
    new Hono<Env>()
      .get('/people', async (c) => c.json({ people: await readPeople(db.read) }))
      // whom one may share with
      .get('/people/names', async (c) => {
        const all = await readPeople(db.read)
        return c.json({
          people: all.filter(({ leftAt }) => leftAt === null).map(({ id, name, email, role }) => ({ id, name, email, role })),
        })
      })
      .patch(
        '/people/:id',
        validate('json', z.strictObject({ role: Role }).partial().refine(notEmpty, NOTHING_TO_CHANGE)),
        async (c) => {
          await setRole(db, by(c), c.req.param('id'), c.req.valid('json').role!)
          forget()
          return c.json({})
        },
      )
      .put('/people/:id/left', validate('json', z.strictObject({ left: z.boolean() })), async (c) => {
        await setLeft(db, by(c), c.req.param('id'), c.req.valid('json').left)
        forget()
        return c.json({})
      })
      // all lectures of one become another's
      .post('/people/:id/lectures', validate('json', z.strictObject({ to: z.string() })), async (c) => {
        const count = await handAllOver(db, by(c), c.req.param('id'), c.req.valid('json').to)
        forget()
        return c.json({ count })
      })
      .post('/people/:id/erased', async (c) => {
        await erasePerson(db, by(c), c.req.param('id'))
        forget()
        return c.json({})
      })
      .post('/people/:id/reset', async (c) => {
        const { token, email } = await inviteToReset(db, by(c), c.req.param('id'))
        return c.json({
          token,
          mailed: await mailed(passwordLetter(email, joinLink(context, token), languageOf(c))),
        })
      })
      .post('/invitations', validate('json', Invitation), async (c) => {
        schoolOf(context)
        const given = c.req.valid('json')
        const token = await invite(db, by(c), given)
        const link = joinLink(context, token)
        const letter = invitationLetter(given.email, link, by(c).name, languageOf(c))
        return c.json({ token, mailed: given.email === '' ? null : await mailed(letter) })
      })
      .get('/quotas', async (c) => c.json({ quotas: await readQuotas(db.read) }))
      .put('/quotas/:id', validate('json', Quota), async (c) => {
        await setQuota(db, by(c), c.req.param('id'), c.req.valid('json'))
        return c.json({})
      })
      .get('/upkeep', async (c) => c.json(await readUpkeep(context)))
      .get('/audit', validate('query', z.object({ before: z.coerce.number().int().optional() })), async (c) =>
        c.json({ entries: await readAudit(db.read, c.req.valid('query').before) }),
      )
      .get('/audit/csv', () => keptAs('audit.csv', 'text/csv; charset=utf-8', auditCsv(db.read)))
  )
}
