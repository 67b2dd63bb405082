import { Hono } from 'hono'
import { z } from 'zod'
import { writeSubRip } from '#core/captions/formats/subrip.ts'
import { writeWebVtt } from '#core/captions/formats/webvtt/write.ts'
import { Probe } from '#core/captions/recognised/recogniser.ts'
import { chaptersOnLecture } from '#core/captions/tracks/chapter-tracks.ts'
import { cuesOnLecture } from '#core/captions/tracks/place-cues.ts'
import { Language } from '#core/language-tag.ts'
import { CAPTION_KINDS, TRACK_KINDS } from '#core/model/caption.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { schedule } from '#core/timing/schedule.ts'
import { message } from '#core/words/say.ts'
import type { AppContext } from '#server/context/context.ts'
import { attachCaptions } from '#server/domain/caption-tracks/caption-files.ts'
import { addTrack, changeTrack, SlideCues, setSlideCues, setTrackDeleted, TrackChange } from '#server/domain/captions/captions.ts'
import { Translated, translate } from '#server/domain/captions/translations.ts'
import { lectureOfSlide } from '#server/domain/lectures/edit.ts'
import { readLecture } from '#server/domain/lectures/read.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { CAPTION_FILE, withUpload } from '#server/http/upload.ts'
import { NOTHING_TO_CHANGE, notEmpty, validate } from '#server/http/validate.ts'
import { alignAllSlides } from '#server/jobs/align-take.ts'
import type { JobQueue } from '#server/queue/queue.ts'
import { knownRecognisers, modelsFolder } from '#server/speech/recognisers/known-recognisers.ts'
import { attachment, safeName } from '#server/storage/zip-stream.ts'

const NewTrack = z.object({
  language: Language,
  label: z.string().trim().min(1).max(120),
  origin: z.enum(['file', 'translation']),
  kind: z.enum(CAPTION_KINDS),
})
const Kind = z.enum(TRACK_KINDS)

export const captionRoutes = (context: AppContext, queue: JobQueue) => {
  const { db, events, config, store } = context
  const told = (lectureId: string) => events.tell({ type: 'lecture', lectureId })
  return (
    new Hono()
      .post('/lectures/:id/captions', async (c) => {
        const lectureId = c.req.param('id')
        await readLecture(db.read, lectureId)
        const attached = await withUpload(c, context, CAPTION_FILE, async (upload) => {
          const { name, file } = upload.file()
          const language = Language.safeParse(upload.field('language'))
          if (!language.success) throw new UserFacingError(message('Say which language these captions are in.'), 422)
          const kind = Kind.catch('captions').parse(upload.field('kind'))
          const slideId = upload.field('slideId') || null
          const bytes = await store.read(file)
          return attachCaptions(db, lectureId, name, bytes, { language: language.data, kind, slideId })
        })
        told(lectureId)
        return c.json(attached)
      })
      .post('/lectures/:id/captionTracks', validate('json', NewTrack), async (c) => {
        const lectureId = c.req.param('id')
        const trackId = await addTrack(db, lectureId, c.req.valid('json'))
        told(lectureId)
        return c.json({ trackId })
      })
      // a whole track, or the part of one slide with times that begin with the slide
      .get('/lectures/:id/captions/:file{.+\\.(vtt|srt)}', async (c) => {
        const lecture = await readLecture(db.read, c.req.param('id'))
        const [trackId, format] = c.req.param('file').split('.') as [string, 'vtt' | 'srt']
        const chapters = lecture.chapterTracks.find((t) => t.id === trackId)
        const track = lecture.captionTracks.find((t) => t.id === trackId) ?? chapters
        if (!track) throw new UserFacingError(message('These captions are not here any more.'), 404)
        const slideId = c.req.query('slide')
        const slide = schedule(lecture).slides.find((s) => s.slideId === slideId)
        if (slideId && !slide) throw new UserFacingError(message('This slide is not here any more, or it is hidden.'), 404)
        const offset = toSeconds(slide?.startSamples ?? 0)
        const cues = (chapters ? chaptersOnLecture : cuesOnLecture)(lecture, track.cues)
          .filter((cue) => !slide || cue.slideId === slideId)
          .map((cue) => ({ ...cue, start: cue.start - offset, end: cue.end - offset }))
        const part = slide ? ` ${lecture.slides.findIndex((s) => s.id === slideId) + 1}` : ''
        const name = `${safeName(`${lecture.title}${part}`)}.${track.language}.${format}`
        return c.body(format === 'vtt' ? writeWebVtt(cues) : writeSubRip(cues), 200, {
          'content-type': `${format === 'vtt' ? 'text/vtt' : 'application/x-subrip'}; charset=utf-8`,
          'content-disposition': attachment(name),
        })
      })
      .get('/recognisers', async (c) =>
        c.json({
          folder: modelsFolder(config),
          recognisers: (await knownRecognisers(config)).map((one) => ({ id: one.id, ...Probe.parse(one) })),
        }),
      )
      .post('/slides/:id/recognition', async (c) => {
        const slideId = c.req.param('id')
        const job = await queue.add('recognise', await lectureOfSlide(db.read, slideId), { slideId })
        return c.json({ job }, 202)
      })
      .put('/captions/:id/slides/:slideId', validate('json', z.object({ cues: SlideCues })), async (c) => {
        const { id, slideId } = c.req.param()
        told(await setSlideCues(db, id, slideId, c.req.valid('json').cues))
        return c.json({})
      })
      .put('/captions/:id/translations', validate('json', z.object({ translated: Translated })), async (c) => {
        told(await translate(db, c.req.param('id'), c.req.valid('json').translated))
        return c.json({})
      })
      .patch('/captions/:id', validate('json', TrackChange.refine(notEmpty, NOTHING_TO_CHANGE)), async (c) => {
        const lectureId = await changeTrack(db, c.req.param('id'), c.req.valid('json'))
        // another language is spoken by another voice: the words are sought anew
        if (c.req.valid('json').language) await alignAllSlides(db, queue, lectureId)
        told(lectureId)
        return c.json({})
      })
      .put('/captions/:id/deleted', validate('json', z.object({ deleted: z.boolean() })), async (c) => {
        told(await setTrackDeleted(db, c.req.param('id'), c.req.valid('json').deleted))
        return c.json({})
      })
  )
}
