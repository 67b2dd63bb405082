/** Everything out of a lecture: nothing is locked in. */

import { Hono } from 'hono'
import { scriptMarkdown, scriptText, timingsCsv } from '#core/edition/timings.ts'
import { message } from '#core/words/say.ts'
import type { AppContext } from '#server/context/context.ts'
import { readLecture } from '#server/domain/lectures/read.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { bundleFiles } from '#server/export/bundle.ts'
import { PICTURE_FORMATS, picturePieces, SOUND_FORMATS, soundPieces } from '#server/export/pieces.ts'
import { narratedPresentation } from '#server/export/presentation.ts'
import { keptAs, safeName, zipped } from '#server/storage/zip-stream.ts'

const PPTX = 'application/vnd.openxmlformats-officedocument.presentationml.presentation'

export const outRoutes = (context: AppContext) =>
  new Hono()
    .get('/lectures/:id/bundle', async (c) => {
      const lecture = await readLecture(context.db.read, c.req.param('id'))
      return keptAs(`${safeName(lecture.title)}.lectern.zip`, 'application/zip', zipped(await bundleFiles(context, lecture.id)))
    })
    .get('/lectures/:id/pieces/:piece', async (c) => {
      const lecture = await readLecture(context.db.read, c.req.param('id'))
      const name = safeName(lecture.title)
      const piece = c.req.param('piece')
      const format = SOUND_FORMATS.find((f) => piece === `sounds-${f}`)
      if (format) {
        const pieces = soundPieces(context, lecture, format)
        // the first is made before anything is answered: what is wrong is said in a sentence
        const first = await pieces.next()
        const all = async function* () {
          if (!first.done) yield first.value
          yield* pieces
        }
        return keptAs(`${name}, sounds.zip`, 'application/zip', zipped(all()))
      }
      const pictures = PICTURE_FORMATS.find((f) => piece === `pictures-${f}`)
      if (pictures) return keptAs(`${name}, pictures.zip`, 'application/zip', zipped(picturePieces(context, lecture, pictures)))
      switch (piece) {
        case 'script.md':
          return keptAs(`${name}, script.md`, 'text/markdown; charset=utf-8', scriptMarkdown(lecture))
        case 'script.txt':
          return keptAs(`${name}, script.txt`, 'text/plain; charset=utf-8', scriptText(lecture))
        case 'timings.csv':
          return keptAs(`${name}, timings.csv`, 'text/csv; charset=utf-8', timingsCsv(lecture))
        case 'presentation.pptx':
          return keptAs(`${name}.pptx`, PPTX, await narratedPresentation(context, lecture, c.req.raw.signal))
        default:
          throw new UserFacingError(message('There is no such piece of a lecture.'), 404)
      }
    })
