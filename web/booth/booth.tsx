/** The booth: full window, dark and quiet. Slide, script, level, time, and one key to record. */
import { Bot } from 'lucide-react'
import { type CSSProperties, useEffect, useLayoutEffect, useState } from 'react'
import { Link, Navigate, useNavigate, useParams, useSearchParams } from 'react-router'
import { sentenceOf } from '#core/captions/edit/edit-cues.ts'
import type { Lecture } from '#core/model/lecture.ts'
import type { Mark } from '#core/model/marks.ts'
import { keptTake, type Slide } from '#core/model/slide.ts'
import { expectedSeconds } from '#core/script/pace.ts'
import { countWords } from '#core/script/sentences.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { clock, plural } from '#web/components/format.ts'
import { Key } from '#web/components/key-list.tsx'
import { Loading } from '#web/components/loading.tsx'
import { api, pictureUrl, sentenceOf as problemOf, thumbnailUrl } from '#web/data/api.ts'
import { isActive } from '#web/data/job-state.ts'
import { JobProgress } from '#web/lecture-ui/job-progress.tsx'
import { TakeList } from '#web/lecture-ui/take-list.tsx'
import { LevelBar } from '#web/microphone/level-bar.tsx'
import { stopPlay, togglePlay } from '#web/playback/sound.ts'
import { isPracticeMicrophone } from '#web/recorder/practice-microphone.ts'
import { isUnderWay } from '#web/recorder/recording-session.ts'
import { isTyping } from '#web/shell/author.tsx'
import { NotFoundPage } from '#web/shell/not-found-page.tsx'
import { KeyButton, type Pressed } from './key-button.tsx'
import { MicrophoneChoice } from './microphone-choice.tsx'
import { SayAgain } from './say-again.tsx'
import { ScriptPane } from './script-pane.tsx'
import { usePositionInDeck } from './use-position-in-deck.ts'
import { type SessionView, useRecordingSession } from './use-recording-session.ts'

function RecordKey({ session, onPress }: { session: SessionView; onPress: () => void }) {
  const busy = isUnderWay(session.state)
  const ready = session.state === 'ready' || session.state === 'counting' || busy
  const word = busy ? 'Stop' : session.state === 'counting' ? 'Not yet' : session.state === 'stopping' ? 'Keeping' : 'Record'
  return (
    <button
      type="button"
      disabled={!ready}
      onClick={onPress}
      className={`flex size-22 flex-col items-center justify-center gap-1 rounded-xl border-3 font-semibold disabled:opacity-50 ${busy ? 'border-error text-error' : 'border-error bg-error text-error-content'}`}
    >
      {word}
      <Key>R</Key>
    </button>
  )
}

/** Where the sound is: on disk, on its way, or kept in this browser for now. */
function UploadStatus({ session }: { session: SessionView }) {
  const { upload, state, problem } = session
  const text = problem
    ? problem
    : upload?.state === 'refused'
      ? upload.problem
      : upload?.state === 'waiting'
        ? `${upload.problem} Your recording is kept in this browser and is sent when the server is back.`
        : isUnderWay(state) && upload
          ? `Everything up to ${clock(upload.sent, 0)} is on disk`
          : upload?.state === 'sealed'
            ? 'The take is on disk, whole.'
            : ''
  const grave = problem !== null || upload?.state === 'refused' || upload?.state === 'waiting'
  return (
    <p role={grave ? 'alert' : 'status'} className={`text-sm ${grave ? 'text-warning' : 'text-base-content/75'}`}>
      {text}
    </p>
  )
}

const COUNTDOWN_KEY = 'countdown'

/** What is happening, in large words over the slide. */
function Banner({ session }: { session: SessionView }) {
  const words =
    session.state === 'counting'
      ? String(session.count)
      : session.state === 'paused'
        ? 'Resting'
        : session.state === 'going back'
          ? 'Listen, then go on'
          : null
  if (words === null) return null
  return (
    <div role="status" className="pointer-events-none absolute inset-0 flex items-center justify-center bg-black/55">
      <span className="rounded-lg bg-base-200 px-8 py-4 font-read text-4xl font-semibold">{words}</span>
    </div>
  )
}

/** That a key was heard: what was marked, and when. */
function Told({ marks, underWay }: { marks: Mark[]; underWay: boolean }) {
  const wrongs = marks.filter((mark) => mark.kind === 'wrong')
  const bookmarks = marks.filter((mark) => mark.kind === 'bookmark')
  const at = (mark: Mark) => clock(toSeconds(mark.at))
  return (
    <p className="text-sm" role="status">
      {underWay && wrongs.length > 0 && `${plural(wrongs.length, 'thing')} marked as wrong; cutting is offered on the sheet. `}
      {bookmarks.length > 0 &&
        `${bookmarks.length === 1 ? 'Bookmark' : `${bookmarks.length} bookmarks, the last one`} at ${at(bookmarks.at(-1)!)}.`}
    </p>
  )
}

/** What came of a session: where its changes of slide were put. */
function Outcome({ lecture, takeId }: { lecture: Lecture; takeId: string }) {
  const { data: jobs = [] } = api.useJobsQuery()
  const splits = jobs.filter((job) => job.kind === 'split-session')
  const split = splits.find((job) => job.result?.recordingId === takeId)?.result
  const active = splits.find((job) => job.lectureId === lecture.id && isActive(job))
  if (active) return <JobProgress job={active} />
  if (!split) return null
  const { takes, moved, outside } = split
  return (
    <p role="status" className="text-sm">
      {plural(takes, 'take')} made.{' '}
      {moved > 0 && `${plural(moved, 'change of slide was', 'changes of slide were')} moved to the pause near the key press. `}
      {outside > 0 && `${plural(outside, 'change stands', 'changes stand')} where the key was pressed: no pause was near. `}
      <Link className="link" to={`/lectures/${lecture.id}/divide/${takeId}`}>
        See and move them
      </Link>
    </p>
  )
}

function BoothScreen({ lecture, slide }: { lecture: Lecture; slide: Slide }) {
  const navigate = useNavigate()
  const [search, setSearch] = useSearchParams()
  const scripts = lecture.captionTracks.find((track) => track.origin === 'script')
  const again = sentenceOf(scripts?.cues ?? [], search.get('again') ?? '')
  const through = search.get('how') === 'through' && !again
  const session = useRecordingSession(lecture.id, slide.id)
  const { index, step, next, before, go, showStep } = usePositionInDeck(lecture, slide)
  const [countdown, setCountdown] = useState(() => Number(localStorage.getItem(COUNTDOWN_KEY) ?? 3))
  /** The slide that is recorded as soon as it is in front. */
  const [recordNext, setRecordNext] = useState<string | null>(null)
  const { state, toggle } = session
  // biome-ignore lint/correctness/useExhaustiveDependencies: the way to begin is new with every picture of the page; when to begin is told by the others
  useEffect(() => {
    // without a microphone it is given up: nothing begins by itself when one is plugged in later
    if (state === 'opening' || state === 'no microphone') setRecordNext(null)
    if (recordNext !== slide.id || state !== 'ready') return
    setRecordNext(null)
    void toggle({ isContinuous: false, countdown })
  }, [recordNext, slide.id, state])
  const words = countWords(slide.script, lecture.language)
  const underWay = isUnderWay(session.state)
  const paused = session.state === 'paused'
  const lastMove = session.marks.findLast((mark) => mark.kind === 'slide')
  const onThisSlide = session.seconds - (lastMove ? toSeconds(lastMove.at) : 0)

  const move = (to: Slide | undefined, { timeStamp }: Pressed) => {
    if (!to) return
    if (session.state === 'counting') return
    if (underWay && !through) {
      // a take belongs to the slide it was begun on: it ends, and the next slide gets one of its own
      if (again || to !== next) return
      setRecordNext(to.id)
      void session.toggle({ isContinuous: through, countdown }).then(() => go(to))
      return
    }
    setRecordNext(null)
    stopPlay()
    if (underWay) void session.mark({ kind: 'slide', slideId: to.id }, timeStamp)
    go(to)
  }
  // pictures of a slide are gone through while it is spoken to; otherwise one goes from slide to slide
  const furtherPicture = underWay ? slide.steps[step + 1] : undefined
  const forward = (press: Pressed) => {
    if (!furtherPicture) return move(next, press)
    void session.mark({ kind: 'step', stepId: furtherPicture.id }, press.timeStamp)
    showStep(step + 1)
  }
  const backward = (press: Pressed) => {
    if (!underWay && step > 0) return showStep(0)
    move(before, press)
  }
  const listen = () => {
    if (session.heard) togglePlay(session.heard)
  }
  const record = () => {
    setRecordNext(null)
    stopPlay()
    if (!underWay) showStep(0)
    void session.toggle({ isContinuous: through, countdown })
  }
  const leave = () => void navigate(`/lectures/${lecture.id}`)
  const rest = () => void session.pauseOrResume()
  const pickUp = () => void session.pickUp()
  const tell = (kind: 'wrong' | 'bookmark', press: Pressed) =>
    session.state === 'recording' && void session.mark({ kind }, press.timeStamp)
  const wrong = (press: Pressed) => tell('wrong', press)
  const bookmark = (press: Pressed) => tell('bookmark', press)
  const set = (how: boolean) =>
    setSearch((now) => new URLSearchParams({ ...Object.fromEntries(now), how: how ? 'through' : 'slide' }), { replace: true })

  // with the picture, and not after it: a key that is pressed the moment a button shows that it can be counts
  useLayoutEffect(() => {
    const keys: Record<string, (press: Pressed) => void> = {
      r: record,
      l: listen,
      p: rest,
      u: pickUp,
      w: wrong,
      b: bookmark,
      arrowright: forward,
      pagedown: forward,
      arrowleft: backward,
      pageup: backward,
      escape: () => (underWay || session.state === 'counting' ? record() : leave()),
    }
    const onKey = (event: KeyboardEvent) => {
      // an open dialog has the keys to itself
      if (document.querySelector('dialog[open]')) return
      if (event.ctrlKey || event.metaKey || event.altKey || event.repeat) return
      if (isTyping(event.target)) {
        if (event.key === 'Escape') (event.target as HTMLElement).blur()
        return
      }
      const act = keys[event.key.toLowerCase()]
      if (!act) return
      event.preventDefault()
      act(event)
    }
    window.addEventListener('keydown', onKey)
    return () => window.removeEventListener('keydown', onKey)
  })

  const picture = slide.steps[step]!
  const recordsNext = underWay && !through && !furtherPicture
  return (
    <div data-theme="lectern-night" data-fills-window className="flex h-dvh min-h-[600px] flex-col bg-base-100 text-base-content">
      <header className="flex min-h-11 shrink-0 items-center gap-5 px-5 text-sm text-base-content/75 max-lg:flex-wrap max-lg:gap-y-1 max-lg:py-1.5">
        <h1 className="truncate font-read text-base font-semibold text-base-content">{lecture.title}</h1>
        <span className="whitespace-nowrap">
          Slide {index + 1} of {lecture.slides.length}
        </span>
        <fieldset className="flex items-center gap-3" aria-label="How to record">
          {[false, true].map((how) => (
            <label key={String(how)} className="flex items-center gap-1.5 whitespace-nowrap">
              <input
                type="radio"
                name="how"
                className="radio radio-xs border-edge"
                checked={through === how}
                disabled={underWay || again !== null}
                onChange={() => set(how)}
              />
              {how ? 'Straight through' : 'Slide by slide'}
            </label>
          ))}
        </fieldset>
        <label className="flex items-center gap-1.5 whitespace-nowrap max-lg:hidden">
          <input
            type="checkbox"
            className="checkbox checkbox-xs border-edge"
            checked={countdown > 0}
            onChange={({ target }) => {
              setCountdown(target.checked ? 3 : 0)
              localStorage.setItem(COUNTDOWN_KEY, target.checked ? '3' : '0')
            }}
          />
          count 3, 2, 1
        </label>
        <div className="ml-auto flex items-center gap-5">
          <MicrophoneChoice session={session} />
          <Link to={`/lectures/${lecture.id}`} className="flex items-center gap-1.5 whitespace-nowrap hover:text-base-content">
            To the sheet {!underWay && session.state !== 'counting' && <Key>Esc</Key>}
          </Link>
        </div>
      </header>
      {session.microphone !== null && isPracticeMicrophone(session.microphone) && (
        <p
          role="status"
          className="mx-5 mb-2 flex items-center gap-3 rounded-md bg-warning px-4 py-1.5 text-lg font-semibold text-warning-content"
        >
          <Bot size={22} aria-hidden /> Practice microphone: a made-up voice is recorded, not yours
        </p>
      )}
      <main className="min-h-0 grow @container-size px-5 max-lg:[container-type:normal] max-lg:overflow-auto">
        <div
          className="grid min-h-0 gap-7 lg:h-full lg:grid-cols-[min(68cqw,calc((100cqh-6.75rem)*var(--shape)))_1fr]"
          style={{ '--shape': picture.width / picture.height } as CSSProperties}
        >
          <div className="grid min-h-0 grid-rows-[auto_minmax(6rem,1fr)] gap-3">
            <div className="relative">
              <img
                src={pictureUrl(picture.picture)}
                alt={slide.altText}
                width={picture.width}
                height={picture.height}
                className="h-auto w-full rounded bg-black"
              />
              <Banner session={session} />
              {slide.steps.length > 1 && (
                <p className="absolute right-0 bottom-0 rounded-tl bg-base-100/85 px-2 py-0.5 text-sm">
                  Picture {step + 1} of {slide.steps.length}
                </p>
              )}
            </div>
            <div className="flex min-h-0 gap-4">
              <div className="min-h-0 grow overflow-auto">
                <TakeList lecture={lecture} slide={slide} />
              </div>
              {next && (
                <button
                  type="button"
                  disabled={underWay && again !== null}
                  onClick={(event) => move(next, event)}
                  className="flex shrink-0 items-start gap-3 rounded text-right text-sm disabled:opacity-50"
                >
                  <span className="max-w-44">
                    <span className="block text-base-content/75">then</span>
                    <span className="line-clamp-3 font-medium">{next.title || `Slide ${lecture.slides.indexOf(next) + 1}`}</span>
                  </span>
                  <img
                    src={thumbnailUrl(next.steps[0]!.thumbnail)}
                    alt=""
                    width={104}
                    height={58}
                    className="rounded-sm bg-white"
                  />
                </button>
              )}
            </div>
          </div>
          {again ? (
            <SayAgain lecture={lecture} slide={slide} sentence={again} session={session} />
          ) : (
            <ScriptPane
              key={slide.id}
              lecture={lecture}
              slide={slide}
              level={session.level}
              recording={underWay}
              resting={session.state !== 'recording'}
            />
          )}
        </div>
      </main>
      <footer className="mt-3 grid shrink-0 grid-cols-[auto_11rem_1fr_auto] items-center gap-6 border-t border-base-300 bg-base-200 px-6 py-3 max-lg:grid-cols-[auto_9rem_1fr] lg:h-38">
        <RecordKey session={session} onPress={record} />
        <div>
          <p className="font-read text-4xl font-semibold" role="timer">
            {clock(onThisSlide)}
          </p>
          <p className="text-sm text-base-content/75">
            {words > 0 ? `expected ${clock(expectedSeconds(words), 0)} for ${plural(words, 'word')}` : 'no script for this slide'}
            {through && session.seconds > 0 && <span className="block">{clock(session.seconds, 0)} in all</span>}
          </p>
        </div>
        <div className="grid gap-1">
          <LevelBar level={session.level} />
          {/* its place stays when nothing is said, so that nothing moves when something is */}
          <div className="h-14 overflow-auto">
            <UploadStatus session={session} />
            <Told marks={session.marks} underWay={underWay} />
            {session.continuousTakeId && !underWay && <Outcome lecture={lecture} takeId={session.continuousTakeId} />}
          </div>
        </div>
        <div className="grid grid-cols-2 gap-1.5 max-lg:col-span-full max-lg:grid-cols-4">
          {underWay ? (
            <>
              <KeyButton letter="P" words={paused ? 'Go on' : 'Rest'} onPress={rest} />
              <KeyButton
                letter="U"
                words="Pick up"
                says="Goes back to the last pause, plays two seconds up to there, and records on"
                disabled={state === 'going back'}
                onPress={pickUp}
              />
              <KeyButton
                letter="W"
                words="That was wrong"
                says="Marks what was said last; cutting it is offered later"
                disabled={state !== 'recording'}
                onPress={wrong}
              />
              <KeyButton
                letter="B"
                words="Bookmark"
                says="Marks this moment for learners, under its slide"
                disabled={state !== 'recording'}
                onPress={bookmark}
              />
            </>
          ) : (
            <KeyButton letter="L" words="Listen" disabled={!session.heard} onPress={listen} />
          )}
          <KeyButton
            letter="→"
            words={furtherPicture ? 'Next picture' : recordsNext ? 'Record next' : 'Next slide'}
            says={recordsNext ? 'This take is kept, and the next slide is recorded' : undefined}
            disabled={!furtherPicture && (!next || (underWay && again !== null))}
            onPress={forward}
          />
          {(!underWay || through) && <KeyButton letter="←" words="Slide before" disabled={!before} onPress={backward} />}
        </div>
      </footer>
    </div>
  )
}

export function Booth() {
  const { id } = useParams()
  const [search] = useSearchParams()
  const { data: lecture, error, isLoading } = api.useLectureQuery(id!)
  useEffect(() => stopPlay, [])
  if (isLoading) return <Loading what="the lecture" />
  if (!lecture) return <NotFoundPage sentence={problemOf(error)} />
  const slide = lecture.slides.find((s) => s.id === search.get('slide'))
  if (slide) return <BoothScreen key={lecture.id} lecture={lecture} slide={slide} />
  const first = lecture.slides.find((s) => !keptTake(s)) ?? lecture.slides[0]
  // the choice goes into the address at once: a take that is kept must not move the teacher to another slide
  const named = first && new URLSearchParams({ ...Object.fromEntries(search), slide: first.id })
  return named ? <Navigate to={`?${named}`} replace /> : <NotFoundPage sentence="This lecture has no slide to speak to." />
}
