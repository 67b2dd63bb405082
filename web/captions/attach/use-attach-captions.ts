/** Attaches a caption file and says what came of it. */

import { toast } from 'sonner'
import { say } from '#core/words/say.ts'
import { type AttachedCaptions, type AttachWanted, isProblem, sentenceOf } from '#web/data/api.ts'
import { captionsApi } from '#web/data/endpoints/captions.ts'

const MOST_LINES = 5
type LineProblems = AttachedCaptions['problems']

/** Says how many captions of a file were attached, and what of it is to be looked at. */
export function tellAttached(said: string, problems: LineProblems) {
  if (problems.length === 0) toast.success(said)
  else
    toast.warning(
      say('{said} {problems, plural, one {# place} other {# places}} to look at.', { said, problems: problems.length }),
      { description: listed(problems), closeButton: true },
    )
}

/** Says why a file was not attached. */
export function tellNotAttached(error: unknown) {
  const problems = isProblem(error) ? (error.data.problems as LineProblems | undefined) : undefined
  toast.error(sentenceOf(error), { description: problems && listed(problems) })
}

function listed(problems: LineProblems): string {
  const lines = problems.slice(0, MOST_LINES).map((p) => say('Line {line}: {message}', { line: p.line, message: p.message }))
  const more = problems.length - lines.length
  return [...lines, ...(more > 0 ? [say('and {more} more', { more })] : [])].join('\n')
}

/** @returns the track they went to, or null when nothing was attached */
export function useAttachCaptions(lectureId: string) {
  const [attach] = captionsApi.useAttachCaptionsMutation()
  return async (file: File, wanted: AttachWanted): Promise<string | null> => {
    try {
      const { kept, problems, trackId } = await attach({ id: lectureId, file, ...wanted }).unwrap()
      const said = say(
        wanted.kind === 'chapters'
          ? '“{name}”: {kept, plural, one {# chapter} other {# chapters}} attached.'
          : '“{name}”: {kept, plural, one {# caption} other {# captions}} attached.',
        { name: file.name, kept },
      )
      tellAttached(said, problems)
      return trackId
    } catch (error) {
      tellNotAttached(error)
      return null
    }
  }
}
