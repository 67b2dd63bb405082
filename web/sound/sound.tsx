/** How all slides sound: one chart, one table, and one way to tidy them all alike. */

import { lazy, Suspense, useState } from 'react'
import { Link, useNavigate, useParams } from 'react-router'
import { toast } from 'sonner'
import type { RoomSettings } from '#core/audio/tidy-up/edit.ts'
import { keptTake } from '#core/model/kept-take.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { lectureSound, loudnessSpread, type SlideSound } from '#core/reports/lecture-sound.ts'
import { figure } from '#core/words/figures.ts'
import { say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { decibels, lufs, percent } from '#web/components/format.ts'
import { Loading } from '#web/components/loading.tsx'
import { api, sentenceOf } from '#web/data/api.ts'
import { isActive } from '#web/data/job-state.ts'
import { useSameForAll } from '#web/data/use-tidy-up.ts'
import { TidySettings } from '#web/lecture-ui/tidy-settings.tsx'
import { Transport } from '#web/lecture-ui/transport.tsx'
import { NotFoundPage } from '#web/shell/not-found-page.tsx'
import { TopBar } from '#web/shell/top-bar.tsx'
import { Beds } from './beds.tsx'

const LoudnessChart = lazy(async () => ({ default: (await import('./loudness-chart.tsx')).LoudnessChart }))

const USUAL: RoomSettings = {
  cleaning: 0.6,
  highPassHz: 70,
  hum: true,
  clicks: true,
  level: { targetLufs: -16, ceilingDbtp: -1, even: false },
  longestPauseSeconds: null,
}

/** How far the tidying of all slides is. */
function Progress({ lecture }: { lecture: Lecture }) {
  const { data: jobs = [] } = api.useJobsQuery()
  const takes = lecture.slides.map(keptTake).filter((take) => take !== null)
  const waiting = takes.filter((take) => take.clip === null).length
  const working = jobs.some((job) => job.kind === 'tidy' && job.lectureId === lecture.id && isActive(job))
  if (waiting === 0 || !working) return null
  const done = takes.length - waiting
  return (
    <div role="status" className="mt-3 text-sm">
      {say('Tidying: {done} of {takes, plural, one {# slide} other {# slides}} done', { done, takes: takes.length })}
      <progress
        className="progress progress-primary mt-1 h-1.5 w-full"
        value={done}
        max={takes.length}
        aria-label={say('Slides tidied')}
      />
    </div>
  )
}

const roomWords = ({ voice, room }: SlideSound) =>
  voice.after === null ? '…' : room.after === null ? say('no pause to hear it') : decibels(room.after)

function SoundPage({ lecture }: { lecture: Lecture }) {
  const navigate = useNavigate()
  const sameForAll = useSameForAll(lecture)
  const first = lecture.slides.map(keptTake).find((take) => take?.tidyUp)?.tidyUp
  const [settings, setSettings] = useState<RoomSettings>(first ?? USUAL)
  const sounds = lectureSound(lecture)
  const spread = loudnessSpread(sounds, 'after')
  const before = loudnessSpread(sounds, 'before')
  if (sounds.length === 0)
    return (
      <p className="p-10 text-center font-read text-xl">
        {say('No slide has sound yet. What is recorded is tidied by itself.')}{' '}
        <Link to={`/lectures/${lecture.id}/booth`} className="link">
          {say('Record the first one')}
        </Link>
      </p>
    )
  return (
    <main className="mx-auto grid w-full max-w-6xl grid-cols-[1fr_20rem] gap-8 p-6 max-lg:grid-cols-1">
      <section aria-labelledby="sound-title" className="min-w-0">
        <h2 id="sound-title" className="font-read text-xl font-semibold">
          {say('Voice and room, slide by slide')}
        </h2>
        <p className="mb-3 text-base-content/80">
          {spread === null
            ? say('One slide has sound.')
            : spread <= 1
              ? before !== null && before > 1
                ? say('All slides are equally loud, to within {spread} LU (as recorded they differed by {before}).', {
                    spread: figure(spread, 1),
                    before: figure(before),
                  })
                : say('All slides are equally loud, to within {spread} LU.', { spread: figure(spread, 1) })
              : say(
                  'The loudest and the quietest slide differ by {spread} LU (loudness units): learners will reach for the volume. Tidy all slides to the same loudness.',
                  { spread: figure(spread, 1) },
                )}
        </p>
        <Suspense fallback={<Loading what={say('the chart')} />}>
          <LoudnessChart sounds={sounds} onChoose={(slideId) => void navigate(`/lectures/${lecture.id}/slides/${slideId}`)} />
        </Suspense>
        {/* biome-ignore lint/a11y: it scrolls by arrow keys, and is no set of fields */}
        <div className="mt-4 overflow-x-auto" tabIndex={0} role="group" aria-label={say('Voice and room, slide by slide')}>
          <table className="table-sm table">
            <thead className="text-base-content/80">
              <tr>
                <th scope="col">{say('Slide')}</th>
                <th scope="col">{say('Voice')}</th>
                <th scope="col">{say('Room')}</th>
                <th scope="col">{say('Cleaning')}</th>
              </tr>
            </thead>
            <tbody>
              {sounds.map((s) => (
                <tr key={s.slideId}>
                  <th scope="row" className="font-normal">
                    <Link to={`/lectures/${lecture.id}/slides/${s.slideId}`} className="hover:underline">
                      {s.number}. <bdi>{s.title || say('Without a title')}</bdi>
                    </Link>
                  </th>
                  <td className="whitespace-nowrap">
                    {lufs(s.voice.before)} → <strong>{s.voice.after === null ? '…' : lufs(s.voice.after)}</strong>
                  </td>
                  <td className="whitespace-nowrap">
                    {decibels(s.room.before)} → <strong>{roomWords(s)}</strong>
                  </td>
                  <td>{percent(s.cleaning)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      </section>
      <section aria-labelledby="all-title">
        <h2 id="all-title" className="mb-3 font-read text-xl font-semibold">
          {say('Tidy all slides the same way')}
        </h2>
        <TidySettings settings={settings} onChange={setSettings} />
        <Button
          kind="primary"
          size="md"
          className="mt-4 w-full"
          onClick={() => {
            const count = sameForAll(settings)
            if (count === 0) toast(say('All slides are tidied like this already.'))
          }}
        >
          {say('Tidy all slides like this')}
        </Button>
        <p className="mt-2 text-sm text-base-content/75">
          {say('Trims, cuts and silences of each slide stay as they are. Undo takes all of it back at once.')}
        </p>
        <Progress lecture={lecture} />
      </section>
    </main>
  )
}

export function Sound() {
  const { id } = useParams()
  const { data: lecture, error, isLoading } = api.useLectureQuery(id!)
  if (isLoading) return <Loading what={say('the lecture')} />
  if (!lecture) return <NotFoundPage sentence={sentenceOf(error)} />
  return (
    <div className="flex min-h-dvh flex-col">
      <TopBar place={say('Sound')} lecture={lecture} />
      <div className="grow">
        <SoundPage lecture={lecture} />
        <Beds lecture={lecture} />
      </div>
      <Transport lecture={lecture} />
    </div>
  )
}
