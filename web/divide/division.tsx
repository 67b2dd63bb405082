/** The changes of slide over the whole waveform: proposed, typed, dragged; then the recording is divided at them. */

import { useNavigate } from 'react-router'
import { toast } from 'sonner'
import { keptTake } from '#core/model/kept-take.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { clock } from '#web/components/format.ts'
import { type Recording, sentenceOf, soundUrl } from '#web/data/api.ts'
import { divideApi } from '#web/data/endpoints/divide.ts'
import { useJobEnd } from '#web/data/use-job-end.ts'
import { togglePlay, usePlaying } from '#web/playback/sound.ts'
import { Changes } from './changes.tsx'
import { DivisionChoices, WrittenTimes } from './division-choices.tsx'
import { useDivision } from './use-division.ts'

const timesText = (seconds: readonly number[]) => seconds.map((s) => clock(s)).join('  ')

export function Division({ lecture, recording }: { lecture: Lecture; recording: Recording }) {
  const navigate = useNavigate()
  const [divide, { isLoading }] = divideApi.useDivideMutation()
  const whenEnded = useJobEnd()
  const division = useDivision(lecture, recording)
  const { slides, boundaries, problem, isReady, move } = division
  const numbers = slides.map((slide) => lecture.slides.indexOf(slide) + 1)
  const end = toSeconds(recording.samples)
  const playing = usePlaying() === soundUrl(recording.sound)
  const edges = [0, ...boundaries.map((b) => b.at), recording.samples]
  const recorded = slides.filter((slide) => keptTake(slide)).length

  const start = async () => {
    try {
      const slideIds = slides.map((slide) => slide.id)
      const job = await divide({ recordingId: recording.id, slideIds, boundaries: boundaries.map((b) => b.at) }).unwrap()
      whenEnded(job, () =>
        toast.success(
          say('{slideIds, plural, one {# slide has its part} other {# slides have their parts}} of “{name}”.', {
            slideIds: slideIds.length,
            name: recording.name,
          }),
        ),
      )
      void navigate(`/lectures/${lecture.id}`)
    } catch (error) {
      toast.error(sentenceOf(error))
    }
  }

  return (
    <main className="grid grow content-start gap-4 p-4">
      <div className="flex flex-wrap items-end gap-x-6 gap-y-3">
        <div>
          <h2 className="font-read text-xl font-semibold">{say('Divide “{name}”', { name: recording.name })}</h2>
          <p className="text-sm text-base-content/75">
            {say('{end} · {speech, plural, one {# stretch of speech} other {# stretches of speech}} found', {
              end: clock(end, 0),
              speech: recording.speech.length,
            })}
          </p>
        </div>
        <DivisionChoices lecture={lecture} division={division} />
        <Button onClick={() => togglePlay(soundUrl(recording.sound))}>{playing ? say('Stop') : say('Hear the recording')}</Button>
        <Button kind="primary" className="ms-auto" disabled={!isReady || isLoading} onClick={() => void start()}>
          {say('Divide over {size, plural, one {# slide} other {# slides}}', { size: new Set(numbers).size })}
        </Button>
      </div>
      <WrittenTimes division={division} />
      {problem && (
        <p role="alert" className="text-error">
          {problem}
        </p>
      )}
      {recorded > 0 && (
        <p className="text-sm text-base-content/75">
          {say(
            '{recorded, plural, one {# of these slides has a recording already: it stays as an earlier take.} other {# of these slides have recordings already: they stay as earlier takes.}}',
            { recorded },
          )}
        </p>
      )}
      <Changes recording={recording} slides={slides} numbers={numbers} boundaries={boundaries} onMove={move} />
      {boundaries.length > 0 && (
        <dl className="grid grid-cols-[9rem_1fr] gap-1 text-sm">
          <dt className="text-base-content/75">{say('Moments of change')}</dt>
          <dd>{timesText(boundaries.map((b) => toSeconds(b.at)))}</dd>
          <dt className="text-base-content/75">{say('Lengths')}</dt>
          <dd>{timesText(edges.slice(1).map((edge, i) => toSeconds(edge - edges[i]!)))}</dd>
        </dl>
      )}
    </main>
  )
}
