/** Makes what was recorded by screen or camera ready: what browser and encoder read comes of its file, once. */
import { steadyRate } from '#core/films/steady-rate.ts'
import { SAMPLE_RATE } from '#core/timing/clocks.ts'
import { message } from '#core/words/say.ts'
import { footageById, keepShownFootage, UNREADABLE } from '#server/domain/lectures/footage.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { proxied } from '#server/media/films/convert-film.ts'
import { filmInput, probeFilm } from '#server/media/films/probe-film.ts'
import { videoPackets } from '#server/media/video-packets.ts'
import type { JobDefinition } from '#server/queue/queue.ts'

/** Pictures that came at changing distances are shown at this rate. */
const USUAL_RATE: [number, number] = [30, 1]

export const prepareFootage: JobDefinition<'footage'>['run'] = async ({ footageId }, context, report, signal) => {
  const { db, store, media, workers, config, events, footageJournals } = context
  const { kind, lectureId, original, recovered, proxy, samples } = await footageById(db.read, footageId)
  if (original === null || proxy !== null) return null
  const name = kind === 'screen' ? message('Demonstration') : message('Small picture')
  const tell = (part: number) => report(part, message('Making {name} ready', { name }))
  const told = () => events.tell({ type: 'lecture', lectureId })
  tell(0)
  const nothingHeard = () => Promise.reject(new Error('What was recorded with a take has no sound of its own'))
  const tools = {
    media,
    store,
    importer: workers.importer,
    dataFolder: config.dataFolder,
    loudnessOf: nothingHeard,
    keepSound: nothingHeard,
  }
  try {
    const shown = await store.withLocalFile(original, async (path) => {
      const facts = await probeFilm(media, path, 'mov', original, signal, Number.POSITIVE_INFINITY)
      const seconds = samples / SAMPLE_RATE
      // its last picture stays to the end, whether the file says so or not; what is too much is cut
      const whole = {
        ...facts,
        rate: USUAL_RATE,
        ...steadyRate((await videoPackets(path)).map(({ at }) => at)),
        seconds,
        soundAfterSeconds: seconds,
        notes: [],
      }
      return proxied(tools, original, { input: filmInput('mov', path), facts: whole, longestSeconds: seconds }, tell, signal)
    })
    signal.throwIfAborted()
    await keepShownFootage(db, footageId, original, shown)
    // the file was read to its end; one that was put together may still grow
    if (!recovered && (await footageById(db.read, footageId)).original === original) await footageJournals.remove(footageId)
    told()
    return null
  } catch (error) {
    // the slide is shown without it and says so: the file is kept, and nothing else of the lecture waits for it
    if (!signal.aborted) {
      const isOfFile = error instanceof UserFacingError && error.status < 500
      const problem = isOfFile ? UNREADABLE : message('It could not be made ready. Try it again.')
      // what went wrong first is what is told
      await keepShownFootage(db, footageId, original, problem).then(told, () => {})
    }
    throw error
  }
}
