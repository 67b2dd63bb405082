/** Makes a film ready: what browser and encoder read comes of its file, once. */
import { createReadStream } from 'node:fs'
import { message } from '#core/words/say.ts'
import { filmWithLecture, keepShown, knownFilm } from '#server/domain/lectures/films.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { convertFilm } from '#server/media/films/convert-film.ts'
import { encodeFlac } from '#server/media/sound-files.ts'
import type { JobDefinition } from '#server/queue/queue.ts'

export const prepareFilm: JobDefinition<'film'>['run'] = async ({ filmId }, context, report, signal) => {
  const { db, store, media, workers, config, events } = context
  const { film, lectureId } = await filmWithLecture(db.read, filmId)
  const { name, original: file } = film
  const tell = (part: number) => report(part, message('Making {name} ready', { name }))
  const told = () => events.tell({ type: 'lecture', lectureId })
  tell(0)
  const tools = {
    media,
    store,
    importer: workers.importer,
    dataFolder: config.dataFolder,
    loudnessOf: async (path: string, length: number) => (await workers.bed({ path, length }, signal)).loudnessLufs,
    keepSound: (path: string) => encodeFlac(media, store, createReadStream(path), { channels: 2, tags: { TITLE: name } }),
  }
  try {
    const shown = (await knownFilm(db.read, file)) ?? (await convertFilm(tools, { name, file }, tell, signal))
    signal.throwIfAborted()
    await keepShown(db, filmId, shown)
    told()
    return { filmId, notes: shown.notes }
  } catch (error) {
    // it stays on its slide and says why it is not shown: the file is kept, and nothing else of the lecture waits for it
    if (!signal.aborted) {
      const isOfFile = error instanceof UserFacingError && error.status < 500
      const problem = isOfFile ? error.said : message('It could not be made ready. Try it again.')
      // what went wrong first is what is told
      await keepShown(db, filmId, problem).then(told, () => {})
    }
    throw error
  }
}
