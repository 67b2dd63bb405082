/** An act of a list: what goes wrong is said. */
import { toast } from 'sonner'
import { sentenceOf } from '#web/data/api.ts'

/** @returns whether it was done */
export const orTell = (act: Promise<unknown>): Promise<boolean> =>
  act.then(
    () => true,
    (error) => {
      toast.error(sentenceOf(error))
      return false
    },
  )
