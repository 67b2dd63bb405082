/** The booth: full window, dark and quiet. Slide, script, level, time, and one key to record. */
import { useCallback, useEffect } from 'react'
import { Link, Navigate, useNavigate, useParams, useSearchParams } from 'react-router'
import { keptTake, type Lecture, type Slide } from '#core/lecture.ts'
import { countWords } from '#core/script/sentences.ts'
import { expectedSeconds } from '#core/timing/pace.ts'
import { api, pictureUrl, sentenceOf, thumbnailUrl } from '#web/shared/api.ts'
import { clock, plural } from '#web/shared/format.ts'
import { stopPlay, togglePlay } from '#web/shared/player/sound.ts'
import { isTyping } from '#web/shared/ui/author.tsx'
import { Key } from '#web/shared/ui/key-list.tsx'
import { Loading } from '#web/shared/ui/loading.tsx'
import { Nowhere } from '#web/shared/ui/nowhere.tsx'
import { TakeList } from '#web/shared/ui/take-list.tsx'
import { LevelBar } from './level-bar.tsx'
import { MicrophoneChoice } from './microphone-choice.tsx'
import { ScriptPane } from './script-pane.tsx'
import { type Sitting, useSitting } from './use-sitting.ts'

function RecordKey({ sitting, onPress }: { sitting: Sitting; onPress: () => void }) {
  const recording = sitting.state === 'recording'
  const ready = sitting.state === 'ready' || recording
  return (
    <button
      type="button"
      disabled={!ready}
      onClick={onPress}
      className={`flex size-22 flex-col items-center justify-center gap-1 rounded-xl border-3 font-semibold disabled:opacity-50 ${recording ? 'border-error text-error' : 'border-error bg-error text-error-content'}`}
    >
      {recording ? 'Stop' : sitting.state === 'stopping' ? 'Keeping' : 'Record'}
      <Key>R</Key>
    </button>
  )
}

/** Where the sound is: on disk, on its way, or kept in this browser for now. */
function Whereabouts({ sitting }: { sitting: Sitting }) {
  const { upload, state, problem } = sitting
  const text = problem
    ? problem
    : upload?.state === 'refused'
      ? upload.problem
      : upload?.state === 'waiting'
        ? `${upload.problem} Your recording is kept in this browser and is sent when the server is back.`
        : state === 'recording' && upload
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

function Ground({ lecture, slide }: { lecture: Lecture; slide: Slide }) {
  const navigate = useNavigate()
  const [, setSearch] = useSearchParams()
  const sitting = useSitting(lecture.id, slide.id)
  const index = lecture.slides.indexOf(slide)
  const next = lecture.slides[index + 1]
  const words = countWords(slide.script, lecture.language)
  const recording = sitting.state === 'recording'
  const go = useCallback(
    (to: Slide | undefined) => {
      if (!to || recording) return
      stopPlay()
      setSearch({ slide: to.id }, { replace: true })
    },
    [recording, setSearch],
  )
  const listen = () => sitting.heard && togglePlay(sitting.heard)
  const record = () => {
    stopPlay()
    void sitting.toggle()
  }
  const leave = () => void navigate(`/lectures/${lecture.id}`)

  useEffect(() => {
    const keys: Record<string, () => void> = {
      r: record,
      l: listen,
      arrowright: () => go(next),
      pagedown: () => go(next),
      arrowleft: () => go(lecture.slides[index - 1]),
      pageup: () => go(lecture.slides[index - 1]),
      escape: () => (recording ? record() : leave()),
    }
    const onKey = (event: KeyboardEvent) => {
      if (event.ctrlKey || event.metaKey || event.altKey || event.repeat) return
      if (isTyping(event.target)) {
        if (event.key === 'Escape') (event.target as HTMLElement).blur()
        return
      }
      const act = keys[event.key.toLowerCase()]
      if (!act) return
      event.preventDefault()
      act()
    }
    window.addEventListener('keydown', onKey)
    return () => window.removeEventListener('keydown', onKey)
  })

  return (
    <div data-theme="lectern-night" className="flex h-dvh min-h-[600px] flex-col bg-base-100 text-base-content">
      <header className="flex h-11 shrink-0 items-center gap-5 px-5 text-sm text-base-content/75">
        <h1 className="truncate font-read text-base font-semibold text-base-content">{lecture.title}</h1>
        <span>
          Slide {index + 1} of {lecture.slides.length}
        </span>
        <div className="ml-auto flex items-center gap-5">
          <MicrophoneChoice sitting={sitting} />
          <Link to={`/lectures/${lecture.id}`} className="flex items-center gap-1.5 whitespace-nowrap hover:text-base-content">
            Leave <Key>Esc</Key>
          </Link>
        </div>
      </header>
      <main className="grid min-h-0 grow grid-cols-[58fr_42fr] gap-7 px-5 max-md:grid-cols-1 max-md:overflow-auto">
        <div className="flex min-h-0 flex-col gap-3">
          <img
            src={pictureUrl(slide.steps[0]!.picture)}
            alt={slide.altText}
            className="max-h-[72%] min-h-0 rounded bg-black object-contain object-left-top"
          />
          <div className="flex min-h-0 gap-4">
            <div className="min-h-0 grow overflow-auto">
              <TakeList lecture={lecture} slide={slide} />
            </div>
            {next && (
              <button
                type="button"
                disabled={recording}
                onClick={() => go(next)}
                className="flex shrink-0 items-start gap-3 rounded text-right text-sm disabled:opacity-50"
              >
                <span>
                  <span className="block text-base-content/75">then</span>
                  <span className="font-medium">{next.title || `Slide ${index + 2}`}</span>
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
        <ScriptPane key={slide.id} lecture={lecture} slide={slide} />
      </main>
      <footer className="mt-3 grid shrink-0 grid-cols-[auto_11rem_1fr_auto] items-center gap-6 border-t border-base-300 bg-base-200 px-6 py-5">
        <RecordKey sitting={sitting} onPress={record} />
        <div>
          <p className="font-read text-4xl font-semibold" role="timer">
            {clock(sitting.seconds)}
          </p>
          <p className="text-sm text-base-content/75">
            {words > 0 ? `expected ${clock(expectedSeconds(words), 0)} for ${plural(words, 'word')}` : 'no script for this slide'}
          </p>
        </div>
        <div className="grid gap-2">
          <LevelBar level={sitting.level} />
          <Whereabouts sitting={sitting} />
        </div>
        <div className="grid grid-cols-2 gap-2">
          <button
            type="button"
            disabled={!sitting.heard || recording}
            onClick={listen}
            className="btn justify-between border-edge"
          >
            Listen <Key>L</Key>
          </button>
          <button
            type="button"
            disabled={recording || !next}
            onClick={() => go(next)}
            className="btn justify-between border-edge"
          >
            Next slide <Key>→</Key>
          </button>
          <button
            type="button"
            disabled={recording || index === 0}
            onClick={() => go(lecture.slides[index - 1])}
            className="btn justify-between border-edge"
          >
            Slide before <Key>←</Key>
          </button>
          <button type="button" onClick={leave} disabled={recording} className="btn justify-between border-edge">
            To the sheet <Key>Esc</Key>
          </button>
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
  if (!lecture) return <Nowhere sentence={sentenceOf(error)} />
  const slide = lecture.slides.find((s) => s.id === search.get('slide'))
  if (slide) return <Ground lecture={lecture} slide={slide} />
  const first = lecture.slides.find((s) => !keptTake(s)) ?? lecture.slides[0]
  // the choice goes into the address at once: a take that is kept must not move the teacher to another slide
  return first ? <Navigate to={`?slide=${first.id}`} replace /> : <Nowhere sentence="This lecture has no slide to speak to." />
}
