/** The page a learner has: the video, its chapters as slide pictures, captions, and a transcript that follows. */
import { Play } from 'lucide-react'
import { useCallback, useEffect, useRef, useState } from 'react'
import { clock } from '#web/components/format.ts'
import { Chapters } from './chapters.tsx'
import { type CaptionSize, Controls } from './controls.tsx'
import { Downloads } from './downloads.tsx'
import type { Source } from './edition.ts'
import { recall, remember } from './remember.ts'
import { Transcript } from './transcript.tsx'
import { useCues } from './use-cues.ts'
import { usePace } from './use-pace.ts'
import { usePlace } from './use-place.ts'
import { usePlayback } from './use-playback.ts'
import { useWatchKeys } from './use-watch-keys.ts'

export type View = 'video' | 'paced'
/** Of the video's width, so that captions grow with it. */
const CAPTION_SIZES: Record<CaptionSize, string> = {
  small: 'text-[clamp(0.8rem,2.1cqw,1.5rem)]',
  medium: 'text-[clamp(0.95rem,2.8cqw,2rem)]',
  large: 'text-[clamp(1.2rem,3.8cqw,2.8rem)]',
}
const VIEWS: { view: View; words: string }[] = [
  { view: 'video', words: 'As a video' },
  { view: 'paced', words: 'Slide by slide, at your own pace' },
]

function ViewChoice({ view, onView }: { view: View; onView: (view: View) => void }) {
  return (
    <fieldset className="mb-3 flex flex-wrap gap-x-5 gap-y-1 text-sm">
      <legend className="sr-only">Way of viewing</legend>
      {VIEWS.map(({ view: value, words }) => (
        <label key={value} className="flex items-center gap-1.5">
          <input
            type="radio"
            name="view"
            className="radio radio-xs border-edge"
            checked={view === value}
            onChange={() => onView(value)}
          />
          {words}
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
      className="absolute bottom-[7%] left-[4%] flex items-center gap-[0.5em] rounded-md bg-[#17594a] px-[0.9em] py-[0.5em] text-[clamp(1.1rem,3.2cqw,2rem)] font-semibold text-white hover:bg-[#124539] focus-visible:outline-4 focus-visible:outline-offset-4 focus-visible:outline-[#17594a]"
    >
      <Play className="size-[1em]" fill="currentColor" aria-hidden />
      {blocked ? 'Go on, with sound' : 'Begin'}
    </button>
  )
}

export function Player({ source }: { source: Source }) {
  const { edition, fileUrl } = source
  const video = useRef<HTMLVideoElement>(null)
  const frame = useRef<HTMLDivElement>(null)
  const begin = useCallback(() => source.onBegin(), [source])
  const playback = usePlayback(video, begin)
  const { moment, seek, play, toggle, playing, blocked } = playback
  const [view, setView] = useState<View>(() => (recall('view') === 'paced' ? 'paced' : 'video'))
  const [size, setSize] = useState<CaptionSize>(() => {
    const known = recall('caption size')
    return known !== null && known in CAPTION_SIZES ? (known as CaptionSize) : 'medium'
  })
  const [language, setLanguage] = useState<string | null>(() => {
    if (edition.burnedIn) return null
    const wanted = recall('captions')
    if (wanted === '') return null
    return (edition.captions.find((track) => track.language === wanted) ?? edition.captions[0])?.language ?? null
  })
  const pace = usePace(view === 'paced', video, edition, playback)
  const resumed = usePlace(source.place, edition, playback)
  const shown = edition.captions.find((track) => track.language === language)
  const spoken = shown ?? edition.captions[0]
  const cues = useCues(source, spoken)
  const cue = shown ? cues.filter((c) => moment >= c.start && moment < c.end) : []
  const choose = (value: string | null) => {
    setLanguage(value)
    remember('captions', value ?? '')
  }
  useEffect(() => {
    document.title = edition.title
  }, [edition])
  useWatchKeys({
    playback,
    pace: view === 'paced' ? pace : null,
    video,
    frame,
    toggleCaptions: () => choose(language ? null : (edition.captions[0]?.language ?? null)),
  })
  const untouched = !playing && moment < 0.05
  return (
    <div className="grid grid-cols-[2fr_minmax(18rem,1fr)] max-lg:grid-cols-1">
      <main className="min-w-0 p-5 max-sm:p-3">
        <h1 className="font-read text-2xl font-semibold max-sm:text-xl">{edition.title}</h1>
        <p className="mb-3 min-h-1 text-sm text-base-content/75">{edition.author}</p>
        <ViewChoice
          view={view}
          onView={(wanted) => {
            remember('view', wanted)
            setView(wanted)
          }}
        />
        <div ref={frame} className="@container relative bg-black">
          {/* biome-ignore lint/a11y/useMediaCaption: captions are drawn below from the same file, so that they can be sized and followed */}
          <video
            ref={video}
            preload="auto"
            playsInline
            className="aspect-video max-h-dvh w-full"
            onClick={toggle}
            poster={edition.hasTranscript ? fileUrl('poster.jpg') : undefined}
          >
            {edition.videos.map((file) => (
              <source key={file.file} src={fileUrl(file.file)} type={file.contentType} />
            ))}
          </video>
          {cue.length > 0 && (
            <div
              lang={shown?.language}
              dir="auto"
              data-testid="caption"
              className="pointer-events-none absolute inset-x-0 bottom-[5%] text-center"
            >
              <span
                className={`inline-block rounded bg-[#1d2a2eec] px-[0.6em] py-[0.25em] font-read leading-snug whitespace-pre-line text-[#f8f5ee] ${CAPTION_SIZES[size]}`}
              >
                {cue.map((c) => c.text).join('\n')}
              </span>
            </div>
          )}
          {(untouched || blocked) && <BigPlay blocked={blocked} onPlay={play} />}
        </div>
        {resumed !== null && (
          <p className="flex flex-wrap gap-x-3 pt-2 text-sm" role="status">
            You stopped at {clock(resumed, 0)} last time.
            <button type="button" className="link" onClick={() => seek(0)}>
              Begin again
            </button>
          </p>
        )}
        <Controls
          video={video}
          frame={frame}
          edition={edition}
          playback={playback}
          pace={view === 'paced' ? pace : null}
          language={language}
          onLanguage={choose}
          size={size}
          onSize={(wanted) => {
            remember('caption size', wanted)
            setSize(wanted)
          }}
        />
        <Chapters edition={edition} moment={moment} pictureOf={fileUrl} onSeek={seek} />
      </main>
      <aside className="border-l border-base-300 p-5 max-lg:border-t max-lg:border-l-0 max-sm:p-3">
        <Transcript edition={edition} language={spoken?.language} cues={cues} moment={moment} onSeek={seek} />
        <Downloads source={source} />
      </aside>
    </div>
  )
}
