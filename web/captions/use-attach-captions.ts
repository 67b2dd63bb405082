/** Attaches a caption file and says what came of it. */
import { toast } from 'sonner'
import type { Lecture } from '#core/lecture.ts'
import { api, isProblem, sentenceOf } from '#web/shared/api.ts'
import { plural } from '#web/shared/format.ts'

const MOST_LINES = 5
type LineProblems = { line: number; message: string }[]

function listed(problems: LineProblems): string {
  const lines = problems.slice(0, MOST_LINES).map((p) => `Line ${p.line}: ${p.message}`)
  const more = problems.length - lines.length
  return [...lines, ...(more > 0 ? [`and ${more} more`] : [])].join('\n')
}

export function useAttachCaptions(lecture: Lecture | undefined) {
  const [attach] = api.useAttachCaptionsMutation()
  return async (file: File) => {
    if (!lecture) return
    try {
      const { kept, problems } = await attach({ id: lecture.id, file, language: lecture.language }).unwrap()
      const said = `“${file.name}”: ${plural(kept, 'caption')} attached.`
      if (problems.length === 0) toast.success(said)
      else
        toast.warning(`${said} ${plural(problems.length, 'place')} could not be used.`, {
          description: listed(problems),
          duration: 30_000,
          closeButton: true,
        })
    } catch (error) {
      const problems = isProblem(error) ? (error.data.problems as LineProblems | undefined) : undefined
      toast.error(sentenceOf(error), { description: problems && listed(problems), duration: 15_000 })
    }
  }
}
