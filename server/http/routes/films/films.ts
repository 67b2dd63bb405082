import { randomUUID } from 'node:crypto'
import { Hono } from 'hono'
import { z } from 'zod'
import { Language } from '#core/language-tag.ts'
import { filmSeconds, LONGEST_FILM_S } from '#core/model/moving/film.ts'
import { message } from '#core/words/say.ts'
import type { AppContext } from '#server/context/context.ts'
import { filmCaptions } from '#server/domain/caption-tracks/caption-files.ts'
import { lectureOfSlide } from '#server/domain/lectures/edit.ts'
import { addFilm, changeFilm, FilmChange, filmWithLecture, forgetProblem, setFilmDeleted } from '#server/domain/lectures/films.ts'
import { readLecture } from '#server/domain/lectures/read.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { CAPTION_FILE, FILM_FILE, withUpload } from '#server/http/upload.ts'
import { NOTHING_TO_CHANGE, notEmpty, validate } from '#server/http/validate.ts'
import { filmFormatOf } from '#server/media/films/film-format.ts'
import type { JobQueue } from '#server/queue/queue.ts'

export const filmRoutes = (context: AppContext, queue: JobQueue) => {
  const { db, events, store } = context
  const told = (lectureId: string) => events.tell({ type: 'lecture', lectureId })
  return (
    new Hono()
      // on one of the slide's steps, the last where none is named: it is there at once, and is seen when it is ready
      .post('/slides/:id/films', async (c) => {
        const slideId = c.req.param('id')
        const lectureId = await lectureOfSlide(db.read, slideId)
        const made = await withUpload(c, context, FILM_FILE, async (upload) => {
          const given = upload.file()
          if ((await store.withLocalFile(given.file, filmFormatOf)) === null)
            throw new UserFacingError(
              message('“{name}” is no film that is known here, whatever its name says. Export it as MP4 and add that.', {
                name: given.name,
              }),
              415,
            )
          const slide = (await readLecture(db.read, lectureId)).slides.find((one) => one.id === slideId)
          const named = upload.field('stepId')
          const step = slide?.steps.find((one) => one.id === named) ?? (named === '' ? slide?.steps.at(-1) : undefined)
          if (!step)
            throw new UserFacingError(message('The picture this film was meant for is not here any more. Choose it again.'), 422)
          const filmId = randomUUID()
          await addFilm(db, step.id, filmId, given)
          return { filmId, job: await queue.add('film', lectureId, { filmId }) }
        })
        told(lectureId)
        return c.json(made, 202)
      })
      .post('/films/:id/tries', async (c) => {
        const filmId = c.req.param('id')
        const lectureId = await forgetProblem(db, filmId)
        const job = await queue.add('film', lectureId, { filmId })
        told(lectureId)
        return c.json({ job }, 202)
      })
      // read only: what becomes of it is a change of the film, which can be taken back
      .post('/films/:id/captionFiles', async (c) => {
        const { film } = await filmWithLecture(db.read, c.req.param('id'))
        const read = await withUpload(c, context, CAPTION_FILE, async (upload) => {
          const { name, file } = upload.file()
          const language = Language.safeParse(upload.field('language'))
          if (!language.success) throw new UserFacingError(message('Say which language these captions are in.'), 422)
          const seconds = film.facts ? filmSeconds(film.facts) : LONGEST_FILM_S
          return filmCaptions({ name, language: language.data, seconds }, await store.read(file))
        })
        return c.json(read)
      })
      .patch('/films/:id', validate('json', FilmChange.refine(notEmpty, NOTHING_TO_CHANGE)), async (c) => {
        told(await changeFilm(db, c.req.param('id'), c.req.valid('json')))
        return c.json({})
      })
      .put('/films/:id/deleted', validate('json', z.object({ deleted: z.boolean() })), async (c) => {
        told(await setFilmDeleted(db, c.req.param('id'), c.req.valid('json').deleted))
        return c.json({})
      })
  )
}
