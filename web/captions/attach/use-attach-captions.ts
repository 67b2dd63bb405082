/** Attaches a caption file and says what came of it. */

import { toast } from 'sonner'
import { plural } from '#web/components/format.ts'
import { type AttachWanted, isProblem, sentenceOf } from '#web/data/api.ts'
import { captionsApi } from '#web/data/endpoints/captions.ts'

const MOST_LINES = 5
type LineProblems = { line: number; message: string }[]

function listed(problems: LineProblems): string {
  const lines = problems.slice(0, MOST_LINES).map((p) => `Line ${p.line}: ${p.message}`)
  const more = problems.length - lines.length
  return [...lines, ...(more > 0 ? [`and ${more} more`] : [])].join('\n')
}

/** @returns the track they went to, or null when nothing was attached */
export function useAttachCaptions(lectureId: string) {
  const [attach] = captionsApi.useAttachCaptionsMutation()
  return async (file: File, wanted: AttachWanted): Promise<string | null> => {
    try {
      const { kept, problems, trackId } = await attach({ id: lectureId, file, ...wanted }).unwrap()
      const said = `“${file.name}”: ${plural(kept, wanted.kind === 'chapters' ? 'chapter' : 'caption')} attached.`
      if (problems.length === 0) toast.success(said)
      else
        toast.warning(`${said} ${plural(problems.length, 'place')} to look at.`, {
          description: listed(problems),
          duration: 30_000,
          closeButton: true,
        })
      return trackId
    } catch (error) {
      const problems = isProblem(error) ? (error.data.problems as LineProblems | undefined) : undefined
      toast.error(sentenceOf(error), { description: problems && listed(problems), duration: 15_000 })
      return null
    }
  }
}
