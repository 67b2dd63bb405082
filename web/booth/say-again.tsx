/** One sentence of a kept take, said again and put into its place. */

import { useEffect, useRef } from 'react'
import { useNavigate } from 'react-router'
import { toast } from 'sonner'
import type { SpokenSentence } from '#core/captions/edit/edit-cues.ts'
import type { Lecture } from '#core/model/lecture.ts'
import type { Slide } from '#core/model/slide.ts'
import { toSamples } from '#core/timing/clocks.ts'
import { say } from '#core/words/say.ts'
import { sentenceOf as problemOf } from '#web/data/api.ts'
import { boothApi } from '#web/data/endpoints/booth.ts'
import { useJobEnd } from '#web/data/use-job-end.ts'
import type { SessionView } from './session/use-recording-session.ts'

interface SayAgainProps {
  lecture: Lecture
  slide: Slide
  sentence: SpokenSentence
  session: SessionView
}

export function SayAgain({ lecture, slide, sentence, session }: SayAgainProps) {
  const navigate = useNavigate()
  const [sayAgain] = boothApi.useSayAgainMutation()
  const whenEnded = useJobEnd()
  const done = useRef<string | null>(null)
  const { upload, takeId } = session
  useEffect(() => {
    // once the recording is on disk, whole
    if (upload?.state !== 'sealed' || !takeId || done.current === takeId) return
    done.current = takeId
    const { start, end } = sentence
    sayAgain({ takeId: sentence.takeId, againTakeId: takeId, text: sentence.text, start: toSamples(start), end: toSamples(end) })
      .unwrap()
      .then((job) => {
        whenEnded(job, () => toast.success(say('The sentence is in its place. What it was before stays among the takes.')))
        void navigate(`/lectures/${lecture.id}/slides/${slide.id}`)
      })
      .catch((error) => toast.error(problemOf(error)))
  }, [upload, takeId, sentence, sayAgain, whenEnded, navigate, lecture.id, slide.id])
  return (
    <section aria-label={say('Say this sentence again')} className="flex min-h-0 flex-col gap-4">
      <p className="text-base-content/75">{say('Say only this sentence again; it is put into the place of the one before.')}</p>
      <blockquote className="font-read text-3xl leading-relaxed">{sentence.text}</blockquote>
    </section>
  )
}
