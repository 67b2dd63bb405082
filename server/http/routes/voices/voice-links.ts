/** Links by which others record, and what a class recorded, for the lecture's teachers. */

import { Hono } from 'hono'
import { z } from 'zod'
import { NewVoiceLink, VoiceLinkChange } from '#core/voices/voice-link.ts'
import type { AppContext } from '#server/context/context.ts'
import { readLecture } from '#server/domain/lectures/read.ts'
import { answerFolder } from '#server/export/answers.ts'
import { SOUND_FORMATS } from '#server/export/pieces.ts'
import { NOTHING_TO_CHANGE, notEmpty, validate } from '#server/http/validate.ts'
import { serveFile } from '#server/storage/serve.ts'
import { keptAs, safeName, zipped } from '#server/storage/zip-stream.ts'
import { answerFiles, readAnswers, setAnswerDeleted } from '#server/voices/answers.ts'
import { changeVoiceLink, makeVoiceLink, readVoiceLinks, voiceLinkRow } from '#server/voices/links.ts'
import type { PasscodeTries } from '#server/watch/passcode.ts'

const AnswerFile = z.object({ id: z.uuid(), file: z.enum(['sound.flac', 'recorded.flac', 'peaks']) })

export const voiceLinkRoutes = (context: AppContext, tries: PasscodeTries) => {
  const { db, store, events } = context
  return new Hono()
    .get('/lectures/:id/voiceLinks', async (c) => c.json({ links: await readVoiceLinks(db.read, c.req.param('id')) }))
    .post('/lectures/:id/voiceLinks', validate('json', NewVoiceLink), async (c) => {
      const { id } = await readLecture(db.read, c.req.param('id'))
      const token = await makeVoiceLink(db, id, c.req.valid('json'))
      events.tell({ type: 'lecture', lectureId: id })
      return c.json({ token })
    })
    .patch('/voiceLinks/:token', validate('json', VoiceLinkChange.refine(notEmpty, NOTHING_TO_CHANGE)), async (c) => {
      const change = c.req.valid('json')
      const { token } = c.req.param()
      const lectureId = await changeVoiceLink(db, token, change)
      if (change.passcode !== undefined) tries.forget(token)
      events.tell({ type: 'lecture', lectureId })
      return c.json({})
    })
    .get('/voiceLinks/:token/answers', async (c) => c.json({ answers: await readAnswers(db.read, c.req.param('token')) }))
    .get(
      '/voiceLinks/:token/folder',
      validate('query', z.object({ format: z.enum(SOUND_FORMATS).default('flac') })),
      async (c) => {
        const link = await voiceLinkRow(db.read, c.req.param('token'))
        const { slides } = await readLecture(db.read, link.lectureId)
        const answers = await readAnswers(db.read, link.token)
        const files = answerFolder(context, answers, slides, c.req.valid('query').format)
        return keptAs(`${safeName(link.name)}.zip`, 'application/zip', zipped(files))
      },
    )
    .get('/answers/:id/:file', validate('param', AnswerFile), async (c) => {
      const { id, file } = c.req.valid('param')
      const { sound, recorded, peaks } = await answerFiles(db.read, id)
      return serveFile(store, (h) => c.req.header(h), c.req.method, {
        name: { 'sound.flac': sound, 'recorded.flac': recorded, peaks }[file],
        contentType: file === 'peaks' ? 'application/octet-stream' : 'audio/flac',
        cacheControl: 'private, no-cache',
      })
    })
    .put(
      '/answers/:id/deleted',
      validate('param', z.object({ id: z.uuid() })),
      validate('json', z.object({ deleted: z.boolean() })),
      async (c) => {
        const lectureId = await setAnswerDeleted(db, c.req.valid('param').id, c.req.valid('json').deleted)
        events.tell({ type: 'lecture', lectureId })
        return c.json({})
      },
    )
}
