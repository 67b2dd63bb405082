/** Who looks at a lecture now. */

import { Hono } from 'hono'
import { z } from 'zod'
import type { AppContext } from '#server/context/context.ts'
import { validate } from '#server/http/validate.ts'
import { presence } from '#server/people/presence.ts'
import type { Env } from './sign-in-parts.ts'

const Said = z.strictObject({ page: z.uuid(), slideId: z.string().max(100).nullable(), isHere: z.boolean() })

export const hereRoutes = ({ events }: AppContext) => {
  const whoIsHere = presence()
  // a page says again and again that it is there, and is told who else is
  return new Hono<Env>().post('/lectures/:id/here', validate('json', Said), (c) => {
    const person = c.get('person')
    if (!person) return c.json({ people: [] })
    const lectureId = c.req.param('id')
    const { page, slideId, isHere } = c.req.valid('json')
    const before = JSON.stringify(whoIsHere.at(lectureId))
    whoIsHere.say(lectureId, page, isHere ? { personId: person.id, name: person.name, slideId } : null)
    const people = whoIsHere.at(lectureId)
    if (JSON.stringify(people) !== before) events.tell({ type: 'here', lectureId, people })
    return c.json({ people })
  })
}
