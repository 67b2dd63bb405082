/** The booth: full window, dark and quiet. Slide, script, level, time, and one key to record. */

import { type CSSProperties, useEffect, useState } from 'react'
import { Navigate, useParams, useSearchParams } from 'react-router'
import { sentenceOf } from '#core/captions/edit/edit-cues.ts'
import { keptTake } from '#core/model/kept-take.ts'
import type { Lecture } from '#core/model/lecture.ts'
import type { Slide } from '#core/model/slide.ts'
import { say } from '#core/words/say.ts'
import { Loading } from '#web/components/loading.tsx'
import { usePageTitle } from '#web/components/page-title.ts'
import { api, sentenceOf as problemOf } from '#web/data/api.ts'
import { stopPlay } from '#web/playback/sound.ts'
import { NotFoundPage } from '#web/shell/not-found-page.tsx'
import { BoothFoot } from './booth-foot.tsx'
import { BoothHead } from './booth-head.tsx'
import { PracticeBanner } from './practice-banner.tsx'
import { SayAgain } from './say-again.tsx'
import { ScriptPane } from './script-pane.tsx'
import { useBoothActs } from './session/use-booth-acts.ts'
import { usePositionInDeck } from './session/use-position-in-deck.ts'
import { useRecordingSession } from './session/use-recording-session.ts'
import { SlideView, seenShape } from './slide-view.tsx'

const COUNTDOWN_KEY = 'countdown'

function useCountdown(): [number, (seconds: number) => void] {
  const [countdown, setCountdown] = useState(() => Number(localStorage.getItem(COUNTDOWN_KEY) ?? 3))
  const keep = (seconds: number) => {
    setCountdown(seconds)
    localStorage.setItem(COUNTDOWN_KEY, String(seconds))
  }
  return [countdown, keep]
}

function BoothScreen({ lecture, slide }: { lecture: Lecture; slide: Slide }) {
  const [search, setSearch] = useSearchParams()
  usePageTitle(lecture.title, say('Booth'))
  const scripts = lecture.captionTracks.find((track) => track.origin === 'script')
  const again = sentenceOf(scripts?.cues ?? [], search.get('again') ?? '')
  const through = search.get('how') === 'through' && !again
  const [countdown, setCountdown] = useCountdown()
  const session = useRecordingSession(lecture.id, slide.id)
  const position = usePositionInDeck(lecture, slide)
  const staysHere = again !== null
  const acts = useBoothActs(lecture, session, position, { through, countdown, staysHere })
  const picture = slide.steps[position.step]!
  const shared = { lecture, session, position, acts, staysHere }
  return (
    <div data-theme="lectern-night" data-fills-window className="flex h-dvh min-h-[600px] flex-col bg-base-100 text-base-content">
      <BoothHead
        lecture={lecture}
        index={position.index}
        session={session}
        through={staysHere ? null : through}
        onThrough={(how) =>
          setSearch((now) => new URLSearchParams({ ...Object.fromEntries(now), how: how ? 'through' : 'slide' }), {
            replace: true,
            flushSync: true,
          })
        }
        countdown={countdown}
        onCountdown={setCountdown}
      />
      <PracticeBanner session={session} />
      <main className="min-h-0 grow @container-size px-5 max-lg:[container-type:normal] max-lg:overflow-auto">
        <div
          className="grid min-h-0 gap-7 lg:h-full lg:grid-cols-[min(68cqw,calc((100cqh-6.75rem)*var(--shape)))_1fr]"
          style={{ '--shape': seenShape(picture, session) } as CSSProperties}
        >
          <SlideView {...shared} />
          {again ? (
            <SayAgain lecture={lecture} slide={slide} sentence={again} session={session} />
          ) : (
            <ScriptPane key={slide.id} lecture={lecture} slide={slide} session={session} acts={acts} />
          )}
        </div>
      </main>
      <BoothFoot {...shared} through={through} />
    </div>
  )
}

export function Booth() {
  const { id } = useParams()
  const [search] = useSearchParams()
  const { data: lecture, error, isLoading } = api.useLectureQuery(id!)
  useEffect(() => stopPlay, [])
  if (isLoading) return <Loading what={say('the lecture')} />
  if (!lecture) return <NotFoundPage sentence={problemOf(error)} />
  const slide = lecture.slides.find((s) => s.id === search.get('slide'))
  if (slide) return <BoothScreen key={lecture.id} lecture={lecture} slide={slide} />
  const first = lecture.slides.find((s) => !keptTake(s)) ?? lecture.slides[0]
  // the choice goes into the address at once: a take that is kept must not move the teacher to another slide
  const named = first && new URLSearchParams({ ...Object.fromEntries(search), slide: first.id })
  return named ? <Navigate to={`?${named}`} replace /> : <NotFoundPage sentence={say('This lecture has no slide to speak to.')} />
}
