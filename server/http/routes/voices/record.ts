/** What a link to record by opens to whoever has it: its slides, a booth, and their own recordings; nothing else of the lecture. */

import { Hono } from 'hono'
import { getCookie, setCookie } from 'hono/cookie'
import { z } from 'zod'
import { isOpen, VoiceName } from '#core/voices/voice-link.ts'
import { message } from '#core/words/say.ts'
import type { AppContext } from '#server/context/context.ts'
import { readLecture } from '#server/domain/lectures/read.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { validate } from '#server/http/validate.ts'
import type { JobQueue } from '#server/queue/queue.ts'
import { serveFile } from '#server/storage/serve.ts'
import { isPictureOf, mustBeAdmitted, mustBeOpen, type VoiceLinkRow } from '#server/voices/links.ts'
import { ownRecordings, refusalOf } from '#server/voices/recordings.ts'
import { joinByLink } from '#server/voices/voices.ts'
import { admit, type PasscodeTries } from '#server/watch/passcode.ts'
import { ownTakeRoutes } from './own-takes.ts'
import { type Env, whoRecords } from './who-records.ts'

const ADMITTED = 'lectern-record-admitted'
const A_TERM_S = 180 * 24 * 3600

/** Of the lecture only what one needs to speak to its slides. */
async function slidesOf({ db }: AppContext, link: VoiceLinkRow) {
  const lecture = await readLecture(db.read, link.lectureId)
  const slides = lecture.slides.flatMap((slide, index) => {
    if (!link.slideIds.includes(slide.id)) return []
    const { id, title, altText, script, language, steps } = slide
    const pictures = steps.map(({ id, picture, thumbnail, width, height }) => ({ id, picture, thumbnail, width, height }))
    return [{ id, number: index + 1, title, altText, script, language, steps: pictures }]
  })
  return { title: lecture.title, language: lecture.language, slides }
}

export const recordRoutes = (context: AppContext, queue: JobQueue, tries: PasscodeTries) => {
  const { db, store } = context
  const { linkOf, voiceOf } = whoRecords(context)
  return new Hono<Env>()
    .route('/', ownTakeRoutes(context, queue))
    .get('/:token/booth', async (c) => {
      const link = await linkOf(c)
      const voice = await voiceOf(c)
      const isOpenNow = isOpen(link, Date.now())
      // who has recorded by it can take that back as long as it is there
      if (!voice) {
        mustBeOpen(link)
        mustBeAdmitted(link, getCookie(c, ADMITTED))
      }
      const { kind, name, expiresAt, recordingsEndAt } = link
      return c.json(
        {
          ...{ kind, name, expiresAt, recordingsEndAt, isOpen: isOpenNow },
          ...(await slidesOf(context, link)),
          voice: voice && { name: voice.name },
          recordings: voice ? await ownRecordings(db.read, voice.id) : [],
          /** Why nothing more can be recorded by it now. */
          refusal: await refusalOf(context, link, voice),
        },
        200,
        { 'cache-control': 'no-store' },
      )
    })
    .post('/:token/entry', validate('json', z.object({ passcode: z.string().max(200) })), async (c) => {
      const link = await linkOf(c)
      mustBeOpen(link)
      const { address, isSecure: secure } = c.var.asker
      const admitted = await admit(tries, { token: link.token, kept: link.passcode }, address, c.req.valid('json').passcode)
      setCookie(c, ADMITTED, admitted, {
        path: `/record/${link.token}`,
        httpOnly: true,
        sameSite: 'Lax',
        secure,
        maxAge: A_TERM_S,
      })
      return c.json({})
    })
    .post('/:token/voices', validate('json', z.object({ name: VoiceName })), async (c) => {
      const link = await linkOf(c)
      mustBeOpen(link)
      mustBeAdmitted(link, getCookie(c, ADMITTED))
      const key = await joinByLink(db, link.token, c.req.valid('json').name)
      context.events.tell({ type: 'lecture', lectureId: link.lectureId })
      return c.json({ key })
    })
    .get('/:token/pictures/:file', async (c) => {
      const link = await linkOf(c)
      if (!(await voiceOf(c))) mustBeAdmitted(link, getCookie(c, ADMITTED))
      const [name = '', kind] = (c.req.param('file') ?? '').split('.')
      if (!(await isPictureOf(db.read, link, name)) || !(await store.has(name)))
        throw new UserFacingError(message('There is no such file.'), 404)
      const contentType = kind === 'webp' ? 'image/webp' : 'image/png'
      const served = { name, contentType, cacheControl: 'private, max-age=31536000, immutable' }
      return serveFile(store, (h) => c.req.header(h), c.req.method, served)
    })
}

export type RecordApi = ReturnType<typeof recordRoutes>
