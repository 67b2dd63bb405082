/** Files that were brought and came to no use are named. */
import { toast } from 'sonner'
import { say } from '#core/words/say.ts'

export function tellUnused(names: readonly string[]) {
  if (names.length > 0)
    toast(say('Not used: {names}. A sound that found no slide: drop it on the slide it is for.', { names: names.join(', ') }))
}
