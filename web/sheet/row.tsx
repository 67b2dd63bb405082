/** One slide on the sheet: picture, strip with its captions, length and what is left to do. It opens into the bench. */
import { useSortable } from '@dnd-kit/sortable'
import { CSS } from '@dnd-kit/utilities'
import { ChevronDown, ChevronRight, CircleAlert, CircleCheck, CircleDashed, GripVertical } from 'lucide-react'
import { lazy, memo, Suspense } from 'react'
import { Link } from 'react-router'
import type { LectureCue } from '#core/captions/place-cues.ts'
import type { Check } from '#core/edition/checks.ts'
import { keptTake, type Lecture, type Slide } from '#core/lecture.ts'
import { countWords } from '#core/script/sentences.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { expectedSeconds, pace } from '#core/timing/pace.ts'
import type { ScheduledSlide } from '#core/timing/schedule.ts'
import { keptStretches } from '#core/timing/time-map.ts'
import { soundUrl, thumbnailUrl } from '#web/shared/api.ts'
import { clock, plural } from '#web/shared/format.ts'
import { PlayButton } from '#web/shared/ui/play-button.tsx'
import { Strip } from '#web/shared/ui/strip.tsx'
import { COLUMNS, type Scale } from './scale.tsx'

const loadBench = () => import('./bench/bench.tsx')
const Bench = lazy(async () => ({ default: (await loadBench()).Bench }))

/** Fetches the bench ahead, so that a row opens at once and even when the server is away. */
export const prepareBench = () => void loadBench().catch(() => {})

interface RowProps {
  lecture: Lecture
  slide: Slide
  index: number
  scheduled: ScheduledSlide | null
  cues: LectureCue[]
  checks: Check[]
  scale: Scale
  open: boolean
}

function Cues({ cues, start, scale }: { cues: LectureCue[]; start: number; scale: Scale }) {
  return (
    <div className="relative mt-1 h-9" aria-hidden="true">
      {cues.map((cue) => (
        <span
          key={cue.id}
          title={cue.text}
          className="absolute h-9 overflow-hidden rounded-sm border border-l-2 border-base-300 border-l-secondary px-1 font-read text-xs leading-[1.05rem]"
          style={{
            left: (cue.start - start) * scale.pixelsASecond,
            width: Math.max(8, (cue.end - cue.start) * scale.pixelsASecond - 2),
          }}
        >
          {cue.text}
        </span>
      ))}
    </div>
  )
}

/** A slide without sound: its script as it will be spoken, as long as that will probably take. */
function Unspoken({ slide, language, scale }: { slide: Slide; language: string; scale: Scale }) {
  const words = countWords(slide.script, language)
  if (words === 0)
    return <p className="py-4 text-sm text-base-content/75">Nothing is written or spoken yet. The slide is shown in silence.</p>
  return (
    <p
      className="line-clamp-3 h-[5.4rem] rounded border border-dashed border-edge px-3 py-1.5 font-read text-sm leading-relaxed text-base-content/80"
      style={{ width: Math.min(scale.width - 8, Math.max(160, expectedSeconds(words) * scale.pixelsASecond)) }}
    >
      {slide.script}
    </p>
  )
}

function Spoken({ slide, scheduled, cues, scale }: Pick<RowProps, 'slide' | 'cues' | 'scale'> & { scheduled: ScheduledSlide }) {
  const take = keptTake(slide)!
  const length = toSeconds(scheduled.lengthSamples) * scale.pixelsASecond
  // while a changed recipe is rendered, what it leaves of the take stands in for the clip
  const drawn = take.clip
    ? { peaks: take.clip.peaks, stretches: [{ start: 0, end: take.clip.samples }] }
    : take.peaks && take.tidyUp && { peaks: take.peaks, stretches: keptStretches(take.tidyUp) }
  return (
    <>
      <div className="relative h-14 border-r border-base-content" style={{ width: Math.min(length, scale.width) }}>
        <div className="absolute inset-x-0 top-1/2 border-t border-base-300" />
        {drawn && (
          <div className="absolute" style={{ left: toSeconds(scheduled.leadSamples) * scale.pixelsASecond }}>
            <Strip
              {...drawn}
              width={toSeconds(scheduled.clipSamples) * scale.pixelsASecond}
              height={56}
              label={`Sound of the slide, ${clock(toSeconds(scheduled.clipSamples))}`}
            />
          </div>
        )}
      </div>
      <Cues cues={cues} start={toSeconds(scheduled.startSamples)} scale={scale} />
    </>
  )
}

function ToDo({ checks, hidden }: { checks: Check[]; hidden: boolean }) {
  if (hidden) return <p className="text-base-content/75">hidden</p>
  if (checks.length === 0) {
    return (
      <p className="flex items-center gap-1 text-success">
        <CircleCheck size={14} aria-hidden /> Ready
      </p>
    )
  }
  const WORDS = {
    'no-sound': 'To record',
    'not-tidied': 'Being tidied',
    'no-captions': 'No captions',
    clipped: 'Too loud',
    'no-voice': 'No voice',
    'no-alt-text': 'Not described',
    'uneven-loudness': 'Uneven',
  }
  return checks.map((check) => (
    <p
      key={check.kind}
      className={`flex items-center gap-1 ${check.level === 'missing' ? 'text-error' : 'text-secondary'}`}
      title={`${check.finding}. ${check.advice}`}
    >
      {check.level === 'missing' ? <CircleDashed size={14} aria-hidden /> : <CircleAlert size={14} aria-hidden />}{' '}
      {WORDS[check.kind]}
    </p>
  ))
}

function Figures({ lecture, slide, scheduled, checks }: Pick<RowProps, 'lecture' | 'slide' | 'scheduled' | 'checks'>) {
  const words = countWords(slide.script, lecture.language)
  const clipSeconds = scheduled ? toSeconds(scheduled.clipSamples) : 0
  const rate = pace(words, clipSeconds)
  const spoken = clipSeconds > 0
  return (
    <div className="border-l border-base-300 px-4 py-2 text-sm max-md:px-2">
      <p className={`font-read text-xl font-semibold ${spoken ? '' : 'text-base-content/75'}`}>
        {spoken || words === 0
          ? clock(scheduled ? toSeconds(scheduled.lengthSamples) : 0)
          : `about ${clock(expectedSeconds(words), 0)}`}
      </p>
      <p className="text-base-content/75">
        {rate ? `${Math.round(rate)} words/min` : words > 0 ? plural(words, 'word') : 'no script'}
      </p>
      <div className="mt-1">
        <ToDo checks={checks} hidden={slide.hidden} />
      </div>
    </div>
  )
}

export const Row = memo(function Row(props: RowProps) {
  const { lecture, slide, index, scheduled, cues, checks, scale, open } = props
  const { attributes, listeners, setNodeRef, setActivatorNodeRef, transform, transition, isDragging } = useSortable({
    id: slide.id,
  })
  const take = keptTake(slide)
  const Chevron = open ? ChevronDown : ChevronRight
  const sheet = `/lectures/${lecture.id}`
  return (
    <li
      ref={setNodeRef}
      id={`slide-${index}`}
      aria-label={`Slide ${index + 1}: ${slide.title || 'without a title'}`}
      className={`scroll-mt-7 border-b border-base-300 ${open ? 'bg-base-200/60' : ''} ${isDragging ? 'relative z-20 bg-base-200' : ''}`}
      style={{ transform: CSS.Translate.toString(transform), transition }}
    >
      <div className={COLUMNS}>
        <div className="flex gap-2 py-2 pl-2">
          <div className="flex flex-col items-center">
            <span className="font-read text-lg font-semibold">{index + 1}</span>
            <button
              type="button"
              ref={setActivatorNodeRef}
              {...attributes}
              {...listeners}
              aria-label={`Move slide ${index + 1}`}
              className="cursor-grab rounded p-1 text-base-content/60 hover:text-base-content"
            >
              <GripVertical size={16} aria-hidden />
            </button>
          </div>
          <Link
            to={open ? sheet : `${sheet}/slides/${slide.id}`}
            preventScrollReset
            className="block rounded-sm"
            aria-expanded={open}
          >
            <img
              src={thumbnailUrl(slide.steps[0]?.thumbnail ?? '')}
              alt={slide.altText}
              width={160}
              height={90}
              loading="lazy"
              className="h-[90px] w-40 border border-base-300 bg-white object-contain max-md:h-[45px] max-md:w-20"
            />
            <span className="mt-0.5 flex w-40 items-center gap-0.5 text-xs text-base-content/75 max-md:w-20">
              <Chevron size={13} aria-hidden className="shrink-0" />{' '}
              <span className="truncate">{slide.title || 'Without a title'}</span>
            </span>
          </Link>
        </div>
        <div className="relative min-w-0 overflow-hidden py-2">
          {scheduled && scheduled.clipSamples > 0 ? (
            <Spoken slide={slide} scheduled={scheduled} cues={cues} scale={scale} />
          ) : (
            <Unspoken slide={slide} language={lecture.language} scale={scale} />
          )}
          {take?.clip && (
            <PlayButton
              url={soundUrl(take.clip.sound)}
              label={`slide ${index + 1}`}
              className="absolute right-2 bottom-2 bg-base-100/80"
            />
          )}
        </div>
        <Figures lecture={lecture} slide={slide} scheduled={scheduled} checks={checks} />
      </div>
      {open && (
        <Suspense>
          <Bench lecture={lecture} slide={slide} index={index} />
        </Suspense>
      )}
    </li>
  )
})
