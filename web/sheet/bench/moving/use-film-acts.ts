/** Films that come onto slides. */
import { toast } from 'sonner'
import type { Film } from '#core/model/moving/film.ts'
import type { Slide } from '#core/model/slide.ts'
import { say } from '#core/words/say.ts'
import { sentenceOf } from '#web/data/api.ts'
import { sheetApi } from '#web/data/endpoints/sheet.ts'
import { useJobEnd } from '#web/data/use-job-end.ts'

export function useFilmActs() {
  const [addFilm] = sheetApi.useAddFilmMutation()
  const [tryFilm] = sheetApi.useTryFilmMutation()
  const whenEnded = useJobEnd()
  return {
    /** Puts a film on a slide, with its last picture. */
    async add(slide: Pick<Slide, 'id'>, file: File) {
      try {
        const { job } = await addFilm({ slideId: slide.id, file }).unwrap()
        toast(say('“{name}” is on its slide, and is being made ready.', { name: file.name }))
        whenEnded(job, () => toast.success(say('“{name}” is ready.', { name: file.name })))
      } catch (error) {
        toast.error(sentenceOf(error))
      }
    },
    async tryAgain(film: Film) {
      try {
        whenEnded((await tryFilm({ id: film.id }).unwrap()).job, () => {})
      } catch (error) {
        toast.error(sentenceOf(error))
      }
    },
  }
}
