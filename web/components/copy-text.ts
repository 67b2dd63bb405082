/** Puts a text where it can be pasted from, and says whether it is there. */
import { toast } from 'sonner'

/** @param otherwise what to do where the browser does not allow it */
export const copyText = (text: string, done: string, otherwise: string): Promise<unknown> =>
  navigator.clipboard.writeText(text).then(
    () => toast(done),
    () => toast.error(otherwise),
  )
