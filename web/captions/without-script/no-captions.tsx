/** What can be done about a slide that has no captions. */

import { AudioLines, Ear, Mic } from 'lucide-react'
import { Link } from 'react-router'
import { toast } from 'sonner'
import { type Probe, recogniserFor } from '#core/captions/recognised/recogniser.ts'
import { keptTake } from '#core/model/kept-take.ts'
import type { Lecture } from '#core/model/lecture.ts'
import type { Slide } from '#core/model/slide.ts'
import { say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { sentenceOf } from '#web/data/api.ts'
import { captionsApi } from '#web/data/endpoints/captions.ts'
import { useJobEnd } from '#web/data/use-job-end.ts'

interface NoCaptionsProps {
  lecture: Lecture
  slide: Slide
  /** It has a recording in which somebody speaks. */
  canType: boolean
  isScript: boolean
  onByEar: () => void
}

/** What a recogniser's words are worth, said before it is asked. */
export function worthOf({ name, wrongOf100, isPractice }: Pick<Probe, 'name' | 'wrongOf100' | 'isPractice'>): string {
  if (isPractice)
    return say('{name}: for trying it out. It knows the texts of the demo and of the practice microphone, and no others.', {
      name,
    })
  return wrongOf100 === null
    ? say('{name} writes what it hears. Nobody has measured how well: check every caption.', { name })
    : say('{name} writes what it hears. Of 100 words about {wrong} are wrong: check every caption.', { name, wrong: wrongOf100 })
}

/** Has a draft written by the recogniser that hears the language. */
function DraftButton({ slide, language }: { slide: Slide; language: string }) {
  const { data } = captionsApi.useRecognisersQuery()
  const [recognise, { isLoading }] = captionsApi.useRecogniseMutation()
  const whenEnded = useJobEnd()
  const recogniser = data && recogniserFor(data.recognisers, language)
  if (!recogniser) return null
  return (
    <Button
      title={worthOf(recogniser)}
      disabled={isLoading}
      onClick={() =>
        recognise(slide.id)
          .unwrap()
          .then((job) => whenEnded(job, () => {}))
          .catch((error) => toast.error(sentenceOf(error)))
      }
    >
      <Ear size={15} aria-hidden /> {say('Draft them by listening')}
    </Button>
  )
}

export function NoCaptions({ lecture, slide, canType, isScript, onByEar }: NoCaptionsProps) {
  const take = keptTake(slide)
  return (
    <p className="flex flex-wrap items-center gap-2 border-b border-base-300 pb-2 text-base-content/75">
      {say('No captions here.')}
      {canType ? (
        <>
          <Button onClick={onByEar}>
            <AudioLines size={15} aria-hidden /> {say('Type them by ear')}
          </Button>
          {isScript && <DraftButton slide={slide} language={slide.language ?? lecture.language} />}
          <Link className="link" to={`/lectures/${lecture.id}/slides/${slide.id}`}>
            {slide.script.trim() ? say('See the script') : say('Or write the script, and they time themselves')}
          </Link>
        </>
      ) : (
        <Link
          className="link flex items-center gap-1"
          to={`/lectures/${lecture.id}/${take ? `slides/${slide.id}` : `booth?slide=${slide.id}`}`}
        >
          <Mic size={14} aria-hidden />{' '}
          {slide.script.trim() || take
            ? say('Record the slide, and they make themselves')
            : say('Write its script and record it, and they make themselves')}
        </Link>
      )}
    </p>
  )
}
