/** The import process itself: one task at a time, asked for and answered by messages. */
import { setPriority } from 'node:os'
import sharp from 'sharp'
import { DeckProblem } from '#core/deck/problem.ts'
import { isDiskFull, UserFacingError } from '#server/errors/user-facing-error.ts'
import type { Answer, Question } from './importer.ts'
import { tasks } from './tasks.ts'

// the server may be ended in this moment: nobody hears it then
const answerWith = (answer: Answer) => process.send!(answer, () => {})

/** What went wrong, in a form that survives the way between processes. */
function fault(error: unknown): Answer {
  if (error instanceof UserFacingError) return { said: error.said, status: error.status }
  if (error instanceof DeckProblem) return { said: error.said, status: 422 }
  return { failed: String((error as Error | null)?.stack ?? error), diskFull: isDiskFull(error) }
}

setPriority(10)
// each picture comes once: what is kept of it for the next time only takes room
sharp.cache(false)
process.on('message', async ({ task, input }: Question) => {
  try {
    const work = tasks[task] as (input: never, tell: (progress: unknown) => void) => Promise<unknown>
    answerWith({ result: await work(input as never, (progress) => answerWith({ progress })) })
  } catch (error) {
    answerWith(fault(error))
  }
})
// whoever asked has ended
process.on('disconnect', () => process.exit())
