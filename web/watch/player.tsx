/** The page a learner has: the video, its chapters as slide pictures, captions, and a transcript that follows. */

import { Play } from 'lucide-react'
import { type ReactNode, type RefObject, useCallback, useEffect, useRef, useState } from 'react'
import { type Message, message, say } from '#core/words/say.ts'
import { clock } from '#web/components/format.ts'
import { useKeptFocus } from '#web/components/keys/use-kept-focus.ts'
import type { Source, WatchedEdition } from '#web/watch/edition/edition.ts'
import { recall, remember } from '#web/watch/edition/remember.ts'
import { useFirstPicture } from '#web/watch/playback/use-first-picture.ts'
import { useFullScreen } from '#web/watch/playback/use-full-screen.ts'
import { useMediaSession } from '#web/watch/playback/use-media-session.ts'
import { useNativeCaptions } from '#web/watch/playback/use-native-captions.ts'
import { useNewerEdition } from '#web/watch/playback/use-newer-edition.ts'
import { usePace } from '#web/watch/playback/use-pace.ts'
import { usePlace } from '#web/watch/playback/use-place.ts'
import { type Playback, usePlayback } from '#web/watch/playback/use-playback.ts'
import { useVideoChoice, type WatchedVideo } from '#web/watch/playback/use-video-choice.ts'
import { useWatchKeys } from '#web/watch/playback/use-watch-keys.ts'
import { QuestionCard } from '#web/watch/questions/question-card.tsx'
import { type Questions, useQuestions } from '#web/watch/questions/use-questions.ts'
import { Transcript } from '#web/watch/transcript/transcript.tsx'
import { useCues } from '#web/watch/transcript/use-cues.ts'
import { InterfaceLanguage } from '#web/words/interface-language.tsx'
import { type CaptionLook, captionClasses, useCaptionLook } from './caption-look.tsx'
import { Chapters } from './chapters.tsx'
import { Controls } from './controls.tsx'
import { Downloads } from './downloads.tsx'
import { Keys } from './keys.tsx'
import { LineState } from './line-state.tsx'

export type View = 'video' | 'paced'
const VIEWS: { view: View; words: Message }[] = [
  { view: 'video', words: message('As a video') },
  { view: 'paced', words: message('Slide by slide, at your own pace') },
]

function ViewChoice({ view, onView }: { view: View; onView: (view: View) => void }) {
  return (
    <fieldset className="mb-3 flex flex-wrap gap-x-5 gap-y-1 text-sm">
      <legend className="sr-only">{say('Way of viewing')}</legend>
      {VIEWS.map(({ view: value, words }) => (
        <label key={value} className="flex items-center gap-1.5">
          <input
            type="radio"
            name="view"
            className="radio radio-xs border-edge"
            checked={view === value}
            onChange={() => onView(value)}
          />
          {say(words)}
        </label>
      ))}
    </fieldset>
  )
}

/** Large, over the picture: nothing was begun yet, or the browser wants a press before it gives sound. */
function BigPlay({ onPlay, blocked }: { onPlay: () => void; blocked: boolean }) {
  return (
    <button
      type="button"
      onClick={onPlay}
      className="absolute bottom-[7%] start-[4%] flex items-center gap-[0.5em] rounded-md bg-[#17594a] px-[0.9em] py-[0.5em] text-[clamp(1.1rem,3.2cqw,2rem)] font-semibold text-white hover:bg-[#124539] focus-visible:outline-4 focus-visible:outline-offset-4 focus-visible:outline-[#17594a]"
    >
      <Play className="size-[1em]" fill="currentColor" aria-hidden />
      {blocked ? say('Go on, with sound') : say('Begin')}
    </button>
  )
}

/** The captions that are chosen first: those of last time, else in a language that the learner's browser asks for. */
function firstLanguage({ burnedIn, captions }: WatchedEdition): string | null {
  if (burnedIn) return null
  const wanted = recall('captions')
  if (wanted === '') return null
  const asked = [...(wanted === null ? [] : [wanted]), ...navigator.languages]
  const known = (tag: string) =>
    captions.find((track) => track.language === tag) ?? captions.find((track) => bare(track.language) === bare(tag))
  const [found] = asked.flatMap((tag) => known(tag) ?? [])
  return (found ?? captions[0])?.language ?? null
}
const bare = (tag: string) => tag.split('-')[0]

interface ScreenProps {
  source: Source
  video: RefObject<HTMLVideoElement | null>
  playback: Playback
  caption: { text: string; language: string | undefined } | null
  look: CaptionLook
  videos: WatchedVideo[]
  /** As large as the room that is left, and not as wide as the page. */
  isFramed: boolean
  /** Controls stand over the lower edge. */
  isCovered: boolean
  questions: Questions
}

/** The picture, and what stands over it. */
function Screen({ source, video, playback, caption, look, videos, isFramed, isCovered, questions }: ScreenProps) {
  const { edition, fileUrl } = source
  const { moment, playing, blocked, failed, play, toggle } = playback
  const untouched = !playing && moment < 0.05
  return (
    <div className={`@container relative bg-black ${isFramed ? 'min-h-0' : ''}`}>
      {/* biome-ignore lint/a11y/useMediaCaption: its tracks are those of the edition, if it has any */}
      <video
        ref={video}
        // nothing large before somebody wants to see it
        preload="metadata"
        playsInline
        className={isFramed ? 'size-full' : 'aspect-video max-h-dvh w-full'}
        onClick={toggle}
        poster={edition.hasTranscript ? fileUrl('poster.jpg') : undefined}
      >
        {videos.map((file) => (
          <source key={file.file} src={fileUrl(file.file)} type={file.contentType} />
        ))}
        {edition.captions.map((track) => (
          <track key={track.file} kind="captions" src={fileUrl(track.file)} srcLang={track.language} label={track.label} />
        ))}
      </video>
      {caption && (
        <div
          lang={caption.language}
          dir="auto"
          data-testid="caption"
          className={`pointer-events-none absolute inset-x-0 text-center ${look.place === 'top' ? 'top-[5%]' : isCovered ? 'bottom-36' : 'bottom-[5%]'}`}
        >
          <span
            className={`inline-block rounded px-[0.6em] py-[0.25em] font-read leading-snug whitespace-pre-line ${captionClasses(look)}`}
          >
            {caption.text}
          </span>
        </div>
      )}
      {(untouched || blocked) && !failed && <BigPlay blocked={blocked} onPlay={play} />}
      <LineState source={source} playback={playback} />
      {questions.asked && <QuestionCard key={questions.asked.index} questions={questions} language={edition.language} />}
    </div>
  )
}

/** What the learner has chosen, kept in the browser. */
function useChoices(edition: WatchedEdition) {
  const [view, setView] = useState<View>(() => (recall('view') === 'paced' ? 'paced' : 'video'))
  const [language, setLanguage] = useState<string | null>(() => firstLanguage(edition))
  return {
    view,
    language,
    chooseView(wanted: View) {
      remember('view', wanted)
      setView(wanted)
    },
    chooseLanguage(wanted: string | null) {
      remember('captions', wanted ?? '')
      setLanguage(wanted)
    },
  }
}

const FRAMED = 'grid min-h-0 grid-rows-[minmax(0,1fr)_auto]'

/** Within another page: the video with its controls, what is to be told, and the way to all the rest. */
function Framed({ edition, pageUrl, children }: { edition: WatchedEdition; pageUrl: string; children: ReactNode }) {
  return (
    <main className="grid h-dvh grid-rows-[minmax(0,1fr)_auto_auto]">
      <h1 className="sr-only" lang={edition.language}>
        {edition.title}
      </h1>
      {children}
      <p className="px-3 pb-2 text-sm">
        <a className="link" href={pageUrl} target="_blank" rel="noopener">
          {say('Open it on its own page')}
        </a>
      </p>
    </main>
  )
}

/** A sentence under the picture, and what can be done about it. */
function Notice({ text, act, onAct }: { text: string; act?: string; onAct?: () => void }) {
  return (
    <p className="flex flex-wrap gap-x-3 pb-2 text-sm" role="status">
      {text}
      {act && (
        <button type="button" className="link" onClick={onAct}>
          {act}
        </button>
      )}
    </p>
  )
}

export function Player({ source }: { source: Source }) {
  const { edition, fileUrl, pageUrl } = source
  // another page shows this one within itself, and there is one with all the rest
  const isFramed = pageUrl !== null && window.self !== window.top
  const video = useRef<HTMLVideoElement>(null)
  const frame = useRef<HTMLDivElement>(null)
  const begin = useCallback(() => source.onBegin(), [source])
  const playback = usePlayback(video, begin)
  const { moment, playing, seek, play } = playback
  useEffect(() => source.onMoment?.(moment, playing), [source, moment, playing])
  const { view, language, chooseView, chooseLanguage } = useChoices(edition)
  const [look, setLook] = useCaptionLook()
  const choice = useVideoChoice(edition, video)
  const questions = useQuestions(source, video, playback)
  const pace = usePace(view === 'paced', video, edition, playback)
  const resumed = usePlace(source, playback)
  const full = useFullScreen(frame, video)
  const shown = edition.captions.find((track) => track.language === language)
  const spoken = shown ?? edition.captions[0]
  const loaded = useCues(source, spoken)
  const said = shown ? loaded.cues.filter((cue) => moment >= cue.start && moment < cue.end) : []
  useNativeCaptions(video, language)
  useMediaSession(source, playback)
  useEffect(() => {
    document.title = edition.title
  }, [edition])
  useWatchKeys({
    playback,
    pace: view === 'paced' ? pace : null,
    video,
    toggleFullScreen: full.toggle,
    isAsking: questions.asked !== null,
    toggleCaptions: () => chooseLanguage(language ? null : (edition.captions[0]?.language ?? null)),
  })
  const hasPicture = useFirstPicture(video)
  const isOutdated = useNewerEdition(source)
  useKeptFocus()
  const isHidden = full.isFull && full.isIdle && playback.playing
  const stage = (
    <div
      ref={frame}
      className={
        full.isFull ? `relative grid h-dvh content-center bg-black ${isHidden ? 'cursor-none' : ''}` : isFramed ? FRAMED : ''
      }
    >
      <Screen
        source={source}
        video={video}
        playback={playback}
        caption={said.length > 0 ? { text: said.map((cue) => cue.text).join('\n'), language: shown?.language } : null}
        look={look}
        videos={choice.videos}
        isFramed={isFramed}
        isCovered={full.isFull && !isHidden}
        questions={questions}
      />
      <Controls
        video={video}
        edition={edition}
        playback={playback}
        pace={view === 'paced' ? pace : null}
        full={full}
        isHidden={isHidden}
        language={language}
        onLanguage={chooseLanguage}
        look={look}
        onLook={setLook}
        choice={choice}
        isFramed={isFramed}
      />
    </div>
  )
  const notices = (
    <>
      {source.notice && <Notice text={source.notice} />}
      {isOutdated && (
        <Notice text={say('There is a newer edition of this lecture.')} act={say('Show it')} onAct={() => location.reload()} />
      )}
      {resumed !== null && (
        <Notice
          text={say('You stopped at {place} last time.', { place: clock(resumed, 0) })}
          act={say('Begin again')}
          onAct={() => {
            seek(0)
            play()
          }}
        />
      )}
    </>
  )
  if (isFramed)
    return (
      <Framed edition={edition} pageUrl={pageUrl}>
        {stage}
        <div className="px-3">{notices}</div>
      </Framed>
    )
  return (
    <div className="grid grid-cols-[2fr_minmax(18rem,1fr)] max-lg:grid-cols-1">
      <main className="min-w-0 p-5 max-sm:p-3">
        <h1 lang={edition.language} dir="auto" className="font-read text-2xl font-semibold max-sm:text-xl">
          {edition.title}
        </h1>
        <p className="mb-3 min-h-1 text-sm text-base-content/75">{edition.author}</p>
        <ViewChoice view={view} onView={chooseView} />
        {stage}
        {notices}
        <Chapters edition={edition} moment={moment} pictureOf={fileUrl} areDue={hasPicture} onSeek={seek} />
      </main>
      <aside className="border-s border-base-300 p-5 max-lg:border-t max-lg:border-s-0 max-sm:p-3">
        <Transcript edition={edition} language={spoken?.language} loaded={loaded} moment={moment} onSeek={seek} />
        <Downloads source={source} />
        <Keys />
        <div className="mt-6">
          <InterfaceLanguage />
        </div>
      </aside>
    </div>
  )
}
