import { randomUUID } from 'node:crypto'
import { eq } from 'drizzle-orm'
import { Hono } from 'hono'
import { z } from 'zod'
import type { GivenFile } from '#core/jobs/job.ts'
import { Language } from '#core/language-tag.ts'
import type { Person } from '#core/people/person.ts'
import { message } from '#core/words/say.ts'
import type { AppContext } from '#server/context/context.ts'
import { lectures as lectureRows } from '#server/db/schema.ts'
import { changeLecture, LectureChange, reorderSlides, setLectureDeleted } from '#server/domain/lectures/edit.ts'
import { unreadyFilms } from '#server/domain/lectures/films.ts'
import { readLecture } from '#server/domain/lectures/read.ts'
import { ReplacementChoice, readReplacement, takeOver } from '#server/domain/lectures/replace.ts'
import { readTrash, readTrashedLectures } from '#server/domain/lectures/trash.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { lecturesWithFile } from '#server/http/permissions/things.ts'
import type { WhoAsks } from '#server/http/permissions/who-may.ts'
import { DECK_FILES, type Upload, withUpload } from '#server/http/upload.ts'
import { NOTHING_TO_CHANGE, notEmpty, validate } from '#server/http/validate.ts'
import { alignAllSlides } from '#server/jobs/align-take.ts'
import { DEMO_ID, hasDemo } from '#server/jobs/make-demo.ts'
import { broughtFor } from '#server/people/just-brought.ts'
import { allRights } from '#server/people/lecture-rights.ts'
import { isFor, ownFromNowOn, rightsOf } from '#server/people/visible.ts'
import type { JobQueue } from '#server/queue/queue.ts'
import { ShelfAsked, shelfFor } from './shelf.ts'

type Env = { Variables: WhoAsks }

/** A picture that is put into a lecture is shown to all who may see it: it must be one that was brought for it, or that who asks may see. */
async function mustSeeCrest(context: AppContext, person: Person | null, id: string, picture: string | undefined) {
  if (!picture || !person || broughtFor(picture) === id) return
  const rights = await allRights(context.db.read, person)
  if ((await lecturesWithFile(context.db.read, picture)).some((lectureId) => rights.has(lectureId))) return
  throw new UserFacingError(message('This picture is not here, or it was not shared with you. Choose it again.'), 404)
}

export const lectureRoutes = (context: AppContext, queue: JobQueue) => {
  /** @throws UserFacingError when none arrived */
  const someOf = ({ files }: Upload): GivenFile[] => {
    if (files.length === 0) throw new UserFacingError(message('No file arrived. Choose a deck or pictures.'), 422)
    return files
  }
  return new Hono<Env>()
    .get('/', validate('query', ShelfAsked), async (c) => c.json(await shelfFor(context, c.get('person'), c.req.valid('query'))))
    .post('/', async (c) => {
      const job = await withUpload(c, context, DECK_FILES, async (upload) => {
        const language = Language.catch('en').parse(upload.field('language'))
        const lectureId = randomUUID()
        const files = someOf(upload)
        await ownFromNowOn(context, c.get('person'), lectureId)
        return queue.add('import', null, { lectureId, language, chosenLanguage: null, files })
      })
      return c.json({ job }, 202)
    })
    .post('/demo', async (c) => {
      const { demoFolder } = context.config
      if (!hasDemo(demoFolder))
        throw new UserFacingError(message('The files of the demo lecture are not here. Begin with a deck of your own.'), 404)
      const person = c.get('person')
      // where people share a server, each has one of their own
      const lectureId = person ? randomUUID() : DEMO_ID
      await ownFromNowOn(context, person, lectureId)
      // one that was thrown away is asked for again
      if ((await context.db.read.$count(lectureRows, eq(lectureRows.id, lectureId))) > 0)
        await setLectureDeleted(context.db, lectureId, false)
      return c.json({ job: await queue.add('demo', null, { lectureId }) }, 202)
    })
    .post('/:id/decks', async (c) => {
      const { id } = await readLecture(context.db.read, c.req.param('id'))
      const job = await withUpload(c, context, DECK_FILES, async (upload) =>
        queue.add('replace', id, { lectureId: id, files: someOf(upload) }),
      )
      return c.json({ job }, 202)
    })
    .get('/replacements/:id', async (c) => c.json((await readReplacement(context.db.read, c.req.param('id'))).found))
    .post('/replacements/:id', validate('json', ReplacementChoice), async (c) => {
      const taken = await takeOver(context, c.req.param('id'), c.req.valid('json'))
      for (const filmId of await unreadyFilms(context.db.read, taken.lectureId))
        await queue.add('film', taken.lectureId, { filmId })
      return c.json(taken)
    })
    .get('/trash', async (c) => {
      const rights = await rightsOf(context, c.get('person'))
      const trashed = (await readTrashedLectures(context.db.read)).filter((one) => isFor(rights, one.id, 'own'))
      return c.json({ trashed })
    })
    .get('/:id/trash', async (c) => c.json({ trashed: await readTrash(context.db.read, c.req.param('id')) }))
    .get('/:id', async (c) => c.json(await readLecture(context.db.read, c.req.param('id'))))
    .patch('/:id', validate('json', LectureChange.refine(notEmpty, NOTHING_TO_CHANGE)), async (c) => {
      await mustSeeCrest(context, c.get('person'), c.req.param('id'), c.req.valid('json').exportSettings?.crest?.picture)
      await changeLecture(context.db, c.req.param('id'), c.req.valid('json'))
      // another language is spoken by another voice: the words are sought anew
      if (c.req.valid('json').language) await alignAllSlides(context.db, queue, c.req.param('id'))
      context.events.tell({ type: 'lecture', lectureId: c.req.param('id') })
      return c.json({})
    })
    .put('/:id/deleted', validate('json', z.object({ deleted: z.boolean() })), async (c) => {
      await setLectureDeleted(context.db, c.req.param('id'), c.req.valid('json').deleted)
      context.events.tell({ type: 'lecture', lectureId: c.req.param('id') })
      return c.json({})
    })
    .put('/:id/order', validate('json', z.object({ order: z.array(z.string()) })), async (c) => {
      await reorderSlides(context.db, c.req.param('id'), c.req.valid('json').order)
      context.events.tell({ type: 'lecture', lectureId: c.req.param('id') })
      return c.json({})
    })
}
