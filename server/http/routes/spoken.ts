import { randomUUID } from 'node:crypto'
import { eq } from 'drizzle-orm'
import { Hono } from 'hono'
import { z } from 'zod'
import { saidSentences } from '#core/captions/compare/compare-takes.ts'
import { isConvincing } from '#core/captions/compare/findings.ts'
import { MovedWords } from '#core/jobs/job.ts'
import { Language } from '#core/language-tag.ts'
import { textOf } from '#core/script/points.ts'
import { sentences } from '#core/script/sentences.ts'
import type { AppContext } from '#server/context/context.ts'
import { slides, takes } from '#server/db/schema.ts'
import { gone } from '#server/domain/lectures/edit.ts'
import { placeCuts, readSlips, readSpoken, WordCuts } from '#server/domain/takes/spoken.ts'
import { validate } from '#server/http/validate.ts'
import { bytesOf } from '#server/media/sound-files.ts'
import type { JobQueue } from '#server/queue/queue.ts'

/** Some six minutes: what is longer is followed by its rests alone. */
const ScriptToSpeak = z.strictObject({ script: z.string().max(6000), language: Language })
const Id = z.object({ id: z.uuid() })

/** What is known of the words of takes. */
export const spokenRoutes = (context: AppContext, queue: JobQueue) =>
  new Hono()
    // what one would rather not have said, in all kept takes of a lecture
    .get('/lectures/:id/slips', validate('param', Id), async (c) =>
      c.json({ takes: await readSlips(context.db, c.req.valid('param').id) }),
    )
    // where its sentences are, by its own alignment: nothing where its words were not found
    .get('/takes/:id/sentences', validate('param', Id), async (c) => {
      const [take] = await context.db.read
        .select()
        .from(takes)
        .where(eq(takes.id, c.req.valid('param').id))
      if (!take) throw gone('take')
      const found = take.alignment?.alignment
      return c.json({ sentences: found && isConvincing(found) ? saidSentences(found) : [] })
    })
    // what was said in it, word by word, and what of that one would rather not have said
    .get('/takes/:id/words', validate('param', Id), async (c) => c.json(await readSpoken(context.db, c.req.valid('param').id)))
    .post('/takes/moved', validate('json', MovedWords), async (c) => {
      const words = c.req.valid('json')
      const [take] = await context.db.read
        .select()
        .from(takes)
        .innerJoin(slides, eq(slides.id, takes.slideId))
        .where(eq(takes.id, words.takeId))
      if (!take) throw gone('take')
      return c.json({ job: await queue.add('move-words', take.slides.lectureId, { ...words, id: randomUUID() }) }, 202)
    })
    // a script as it would be said: a page follows by it who reads it out; nothing where there is no voice for its language
    .post('/scripts/spoken', validate('json', ScriptToSpeak), async (c) => {
      const { script, language } = c.req.valid('json')
      const said = sentences(textOf(script), language)
      const spoken = said.length > 0 ? await context.workers.speakScript({ sentences: said, language }) : null
      if (!spoken) return c.body(null, 204)
      const { features, ...rest } = spoken
      const head = Buffer.from(JSON.stringify(rest))
      const size = Buffer.alloc(4)
      size.writeUInt32LE(head.length)
      return c.body(Uint8Array.from(Buffer.concat([size, head, Buffer.from(bytesOf(features))])), 200, {
        'content-type': 'application/octet-stream',
      })
    })
    // where cuts lie that take words out: nothing is changed by asking
    .post('/takes/:id/cuts', validate('param', Id), validate('json', z.object({ cuts: WordCuts })), async (c) =>
      c.json({ placed: await placeCuts(context, c.req.valid('param').id, c.req.valid('json').cuts) }),
    )
