/** One slide on the sheet: picture, strip with its captions, length and what is left to do. It opens into the bench. */

import { useSortable } from '@dnd-kit/sortable'
import { CSS } from '@dnd-kit/utilities'
import { ChevronDown, ChevronRight, CircleCheck, Clock, Ear, GripVertical, Music, Pause, Play } from 'lucide-react'
import { lazy, memo, type ReactNode, Suspense, useCallback, useLayoutEffect, useRef } from 'react'
import { Link } from 'react-router'
import type { LectureCue } from '#core/captions/tracks/place-cues.ts'
import type { Check } from '#core/edition/checks/check.ts'
import { keptTake } from '#core/model/kept-take.ts'
import type { Lecture } from '#core/model/lecture.ts'
import type { Slide } from '#core/model/slide.ts'
import { pace, spokenLength } from '#core/script/pace.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import type { ScheduledSlide } from '#core/timing/scheduled.ts'
import { joinsOf, keptStretches } from '#core/timing/time-map.ts'
import { figure } from '#core/words/figures.ts'
import { say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { clock } from '#web/components/format.ts'
import { api, peaksUrl, thumbnailUrl } from '#web/data/api.ts'
import { isActive } from '#web/data/job-state.ts'
import { CheckChip } from '#web/lecture-ui/check-chip.tsx'
import { Strip } from '#web/lecture-ui/strip.tsx'
import { player, usePlayer } from '#web/playback/player.ts'
import { usePlayhead } from '#web/playback/use-playhead.ts'
import { isSchool } from '#web/sign-in/is-school.ts'
import { FilmBand, FootageBand } from './film-band.tsx'
import { COLUMNS, type Scale } from './scale.tsx'
import { StepMarks } from './step-marks.tsx'
import type { RowData } from './use-sheet.ts'

/** In narrower boxes a word would be cut in the middle; the text stands in its title. */
const NARROWEST_TEXT_PX = 48
/** Height of the transport bar. */
const TRANSPORT_PX = 56
/** And of the ruler above the rows. */
const RULER_PX = 25

const RowComments = lazy(async () => ({ default: (await import('#web/sharing/comments/row-comments.tsx')).RowComments }))
const loadBench = () => import('./bench/bench.tsx')
const Reading = lazy(async () => ({ default: (await import('./bench/reading.tsx')).Reading }))
const Bench = lazy(async () => ({ default: (await loadBench()).Bench }))

/** Fetches the bench ahead, so that a row opens at once and even when the server is away. */
export const prepareBench = () => void loadBench().catch(() => {})

/** Null for who may not change anything. */
type FixAct = ((check: Check) => void) | null

interface RowProps {
  measure: (element: Element | null) => void
  /** Place among the rows that are shown. */
  at: number
  /** Distance from the top of the list, px. */
  top: number
  lecture: Lecture
  row: RowData
  scale: Scale
  mayChange: boolean
  open: boolean
  /** Whether the lecture stands on it. */
  played: boolean
  onFix: (check: Check) => void
}

/** Where the lecture is played, as a line over the row's strip. */
function Playhead({ scheduled, scale }: { scheduled: ScheduledSlide; scale: Scale }) {
  const line = useRef<HTMLDivElement>(null)
  usePlayhead((seconds) => {
    if (!line.current) return
    const x = (seconds - toSeconds(scheduled.startSamples)) * scale.pixelsASecond
    line.current.style.transform = `translateX(${x}px)`
    line.current.hidden = x < 0 || x > scale.width || seconds > toSeconds(scheduled.startSamples + scheduled.lengthSamples)
  })
  return (
    <div ref={line} aria-hidden="true" className="pointer-events-none absolute inset-y-0 start-0 drawn z-10 w-0.5 bg-secondary" />
  )
}

/** Music under this row, as a band that goes on from row to row. */
function BedBand({ beds }: { beds: RowData['beds'] }) {
  return beds.map(({ bed, first, last }, i) => (
    <span
      key={bed.id}
      title={say('{name} plays under this slide', { name: bed.name })}
      className={`absolute w-1.5 border-x border-info bg-info/35 ${first ? 'top-2 rounded-t border-t' : 'top-0'} ${last ? 'bottom-2 rounded-b border-b' : 'bottom-0'}`}
      style={{ insetInlineEnd: 2 + i * 9 }}
    >
      {first && (
        <Music size={13} aria-label={say('Music: {name}', { name: bed.name })} className="absolute -top-0.5 -start-4 text-info" />
      )}
    </span>
  ))
}

function Cues({ cues, start, scale }: { cues: LectureCue[]; start: number; scale: Scale }) {
  return (
    <div className="relative mt-1 h-9" aria-hidden="true">
      {cues.map((cue) => (
        <span
          key={cue.id}
          title={cue.text}
          className="absolute h-9 overflow-hidden rounded-sm border border-s-2 border-base-300 border-s-secondary px-1 font-read text-xs leading-[1.05rem]"
          style={{
            left: (cue.start - start) * scale.pixelsASecond,
            width: Math.max(8, (cue.end - cue.start) * scale.pixelsASecond - 2),
          }}
        >
          {(cue.end - cue.start) * scale.pixelsASecond >= NARROWEST_TEXT_PX ? (
            <span className="line-clamp-2" dir="auto">
              {cue.text}
            </span>
          ) : (
            '…'
          )}
        </span>
      ))}
    </div>
  )
}

/** A slide without sound: its script as it will be spoken, as long as that will probably take. */
function Unspoken({ slide, language, scale }: { slide: Slide; language: string; scale: Scale }) {
  const { seconds } = spokenLength(slide.script, language)
  if (seconds === 0)
    return (
      <p dir="auto" className="py-4 text-sm text-base-content/75">
        {say('Nothing is written or spoken yet. The slide is shown in silence.')}
      </p>
    )
  return (
    <p
      lang={language}
      dir="auto"
      className="line-clamp-3 h-[5.4rem] rounded whitespace-pre-line border border-dashed border-edge px-3 py-1.5 font-read text-sm leading-relaxed text-base-content/80"
      style={{ width: Math.min(scale.width - 8, Math.max(160, seconds * scale.pixelsASecond)) }}
    >
      {slide.script}
    </p>
  )
}

function Spoken({
  lecture,
  slide,
  scheduled,
  cues,
  scale,
  mayChange,
}: {
  lecture: Lecture
  slide: Slide
  scheduled: ScheduledSlide
  cues: LectureCue[]
  scale: Scale
  mayChange: boolean
}) {
  const take = keptTake(slide)!
  const length = toSeconds(scheduled.lengthSamples) * scale.pixelsASecond
  // while a changed recipe is rendered, what it leaves of the take stands in for the clip
  const drawn = take.clip
    ? { address: peaksUrl(take.clip.peaks), stretches: [{ start: 0, end: take.clip.samples }] }
    : take.peaks && take.tidyUp && { address: peaksUrl(take.peaks), stretches: keptStretches(take.tidyUp) }
  const removed = take.tidyUp ? joinsOf(take.tidyUp) : []
  return (
    <>
      <div className="relative h-14 border-e border-base-content" style={{ width: Math.min(length, scale.width) }}>
        <div className="absolute inset-x-0 top-1/2 border-t border-base-300" />
        {drawn && (
          <div className="absolute" style={{ left: toSeconds(scheduled.leadSamples) * scale.pixelsASecond }}>
            <Strip
              {...drawn}
              width={toSeconds(scheduled.clipSamples) * scale.pixelsASecond}
              height={56}
              label={say('Sound of the slide, {length}', { length: clock(toSeconds(scheduled.clipSamples)) })}
            />
            {removed.map((join) => (
              <span
                key={join.at}
                title={say('{seconds} s taken out here', { seconds: figure(toSeconds(join.samples), 1) })}
                className="hatched absolute inset-y-2 w-1.5 -translate-x-1/2 rounded-sm bg-base-100"
                style={{ left: toSeconds(join.at) * scale.pixelsASecond }}
              />
            ))}
          </div>
        )}
        <StepMarks lecture={lecture} slide={slide} scheduled={scheduled} scale={scale} mayChange={mayChange} />
      </div>
      <Cues cues={cues} start={toSeconds(scheduled.startSamples)} scale={scale} />
    </>
  )
}

function ToDo({ lecture, row, onFix }: Pick<RowProps, 'lecture' | 'row'> & { onFix: FixAct }) {
  const { isListening } = api.useJobsQuery(undefined, {
    selectFromResult: ({ data }) => ({
      isListening: data?.some((job) => job.kind === 'align' && job.slideId === row.slide.id && isActive(job)) ?? false,
    }),
  })
  if (row.slide.hidden) return <p className="text-base-content/75">{say('hidden')}</p>
  const open = row.checks.filter((check) => check.level !== 'note')
  return (
    <>
      {isListening ? (
        <p className="flex items-center gap-1 text-base-content/75">
          <Ear size={14} aria-hidden /> {say('Finding the words')}
        </p>
      ) : (
        open.length === 0 && (
          <p
            className="flex items-center gap-1 text-success"
            title={say('Sound, pauses, captions and description were looked at. Whether every word is right only you can hear.')}
          >
            <CircleCheck size={14} aria-hidden /> {say('No fault found')}
          </p>
        )
      )}
      {row.checks.map((check) => (
        <CheckChip key={check.kind} lecture={lecture} check={check} onFix={onFix} />
      ))}
    </>
  )
}

/** At a fixed pace: room left, or too much said. */
function Room({ scheduled }: { scheduled: ScheduledSlide }) {
  if (scheduled.overSamples === null || scheduled.clipSamples === 0) return null
  const over = toSeconds(scheduled.overSamples)
  return over > 0 ? (
    <p className="font-medium text-secondary">{say('{seconds} s over', { seconds: figure(over, 1) })}</p>
  ) : (
    <p className="text-base-content/75">{say('{seconds} s to spare', { seconds: figure(-over, 1) })}</p>
  )
}

function Figures({ lecture, row, onFix }: Pick<RowProps, 'lecture' | 'row'> & { onFix: FixAct }) {
  const { slide, scheduled } = row
  const { words, points, seconds } = spokenLength(slide.script, slide.language ?? lecture.language)
  const clipSeconds = scheduled ? toSeconds(scheduled.clipSamples) : 0
  const rate = pace(words, clipSeconds)
  const spoken = clipSeconds > 0
  const own = Object.keys(slide.timing).length > 0 || slide.transition !== null
  return (
    <div className="border-s border-base-300 px-4 py-2 text-sm max-md:px-2 max-sm:col-span-full max-sm:flex max-sm:flex-wrap max-sm:items-baseline max-sm:gap-x-3 max-sm:border-s-0 max-sm:pt-0">
      <p className={`font-read text-xl font-semibold ${spoken ? '' : 'text-base-content/75'}`}>
        {spoken || seconds === 0
          ? clock(scheduled ? toSeconds(scheduled.lengthSamples) : 0)
          : say('about {time}', { time: clock(seconds, 0) })}
        {own && <Clock size={13} aria-label={say('has times of its own')} className="ms-1.5 inline text-base-content/60" />}
      </p>
      <p className="text-base-content/75">
        {rate
          ? say('{rate} words/min', { rate: Math.round(rate) })
          : words > 0
            ? say('{words, plural, one {# word} other {# words}}', { words })
            : points > 0
              ? say('{points, plural, one {# point} other {# points}}', { points })
              : say('no script')}
      </p>
      {scheduled && <Room scheduled={scheduled} />}
      <ToDo lecture={lecture} row={row} onFix={onFix} />
      {isSchool() && (
        <Suspense>
          <RowComments lecture={lecture} slide={slide} index={row.index} scheduled={scheduled ?? undefined} />
        </Suspense>
      )}
    </div>
  )
}

/** Plays the lecture from this slide on. */
function PlayFromHere({ scheduled, index }: { scheduled: ScheduledSlide; index: number }) {
  const { playing, slideId } = usePlayer()
  const here = playing && slideId === scheduled.slideId
  return (
    <Button
      kind="ghost"
      square
      className="absolute end-2 bottom-2 bg-base-100/80"
      aria-label={here ? say('Pause the lecture') : say('Play from slide {number}', { number: index + 1 })}
      onClick={() => (here ? player.pause() : player.play(toSeconds(scheduled.startSamples)))}
    >
      {here ? <Pause size={15} fill="currentColor" aria-hidden /> : <Play size={16} fill="currentColor" aria-hidden />}
    </Button>
  )
}

export const Row = memo(function Row({ measure, at, top, ...shown }: RowProps) {
  const { slide, index } = shown.row
  const { attributes, listeners, setNodeRef, setActivatorNodeRef, transform, transition, isDragging } = useSortable({
    id: slide.id,
  })
  const element = useCallback(
    (node: HTMLLIElement | null) => {
      setNodeRef(node)
      measure(node)
    },
    [setNodeRef, measure],
  )
  return (
    <li
      ref={element}
      data-index={at}
      aria-label={say('Slide {number}: {title}', { number: index + 1, title: slide.title || say('without a title') })}
      className={`absolute inset-x-0 scroll-mt-[25px] border-b border-base-300 ${shown.open ? 'bg-base-200/60' : ''} ${isDragging ? 'z-20 bg-base-200' : ''} ${slide.hidden ? 'opacity-70' : ''} has-[details[open]]:z-20`}
      style={{ top, transform: CSS.Translate.toString(transform), transition }}
    >
      <Content {...shown} grip={setActivatorNodeRef} attributes={attributes} listeners={listeners} />
    </li>
  )
})

type ContentProps = Omit<RowProps, 'measure' | 'at' | 'top'> &
  Pick<ReturnType<typeof useSortable>, 'attributes' | 'listeners'> & { grip: (element: HTMLElement | null) => void }

/** Brings a bench that opens into view, with the row it belongs to: its sound would stand below the screen's edge. */
function IntoView({ children }: { children: ReactNode }) {
  const place = useRef<HTMLDivElement>(null)
  useLayoutEffect(() => {
    const row = place.current?.closest('li')
    if (!row) return
    // after the rows above it and itself were measured
    let frame = requestAnimationFrame(() => {
      frame = requestAnimationFrame(() => {
        const { top, bottom } = row.getBoundingClientRect()
        // what stands at the bottom of the window covers some of it
        if (top < RULER_PX || bottom > window.innerHeight - TRANSPORT_PX) row.scrollIntoView({ block: 'start' })
      })
    })
    return () => cancelAnimationFrame(frame)
  }, [])
  return <div ref={place}>{children}</div>
}

/** What a row shows. By itself, because dragging lets every row know of every row that comes and goes. */
const Content = memo(function Content(props: ContentProps) {
  const { lecture, row, scale, mayChange, open, played, onFix, grip, attributes, listeners } = props
  const { slide, index, scheduled } = row
  const Chevron = open ? ChevronDown : ChevronRight
  const sheet = `/lectures/${lecture.id}`
  return (
    <>
      {slide.section && (
        <h2 className="border-b border-base-300 bg-base-200 px-2 py-1 font-read font-semibold">{slide.section}</h2>
      )}
      <div className={COLUMNS}>
        <div className="relative flex gap-2 py-2 ps-2">
          <div className="flex flex-col items-center">
            <span className={`font-read text-lg font-semibold ${played ? 'text-secondary' : ''}`}>{index + 1}</span>
            {mayChange && (
              <button
                type="button"
                ref={grip}
                {...attributes}
                {...listeners}
                aria-label={say('Move slide {number}', { number: index + 1 })}
                className="cursor-grab rounded p-1 text-base-content/60 hover:text-base-content"
              >
                <GripVertical size={16} aria-hidden />
              </button>
            )}
          </div>
          <Link
            to={open ? sheet : `${sheet}/slides/${slide.id}`}
            preventScrollReset
            className="block rounded-sm"
            aria-expanded={open}
          >
            <img
              src={thumbnailUrl(slide.steps.at(-1)?.thumbnail ?? '')}
              alt={slide.altText}
              width={160}
              height={90}
              loading="lazy"
              decoding="async"
              className="h-[90px] w-40 border border-base-300 bg-white object-contain max-md:h-[45px] max-md:w-20"
            />
            <span className="mt-0.5 flex w-40 items-center gap-0.5 text-xs text-base-content/75 max-md:w-20">
              <Chevron size={13} aria-hidden className="shrink-0 rtl:-scale-x-100" />{' '}
              <bdi className="truncate">{slide.title || say('Without a title')}</bdi>
              {slide.steps.length > 1 && (
                <span
                  className="ms-auto flex shrink-0 items-center gap-0.5"
                  title={say('{count} pictures in turn', { count: slide.steps.length })}
                >
                  <span className="sr-only">{say('{count} steps', { count: slide.steps.length })}</span>
                  {slide.steps.slice(0, 6).map((step) => (
                    <span key={step.id} aria-hidden="true" className="size-1.5 rounded-full bg-base-content/60" />
                  ))}
                </span>
              )}
            </span>
          </Link>
          <BedBand beds={row.beds} />
        </div>
        {/* time runs from left to right in every language */}
        <div dir="ltr" className="relative min-w-0 overflow-hidden py-2">
          {scheduled && scheduled.clipSamples > 0 ? (
            <Spoken lecture={lecture} slide={slide} scheduled={scheduled} cues={row.cues} scale={scale} mayChange={mayChange} />
          ) : (
            <Unspoken slide={slide} language={slide.language ?? lecture.language} scale={scale} />
          )}
          <FilmBand slide={slide} scheduled={scheduled} runningOn={row.runningOn} scale={scale} />
          {scheduled && row.filmCues.length > 0 && (
            <Cues cues={row.filmCues} start={toSeconds(scheduled.startSamples)} scale={scale} />
          )}
          <FootageBand slide={slide} filmed={row.demonstrations} scale={scale} />
          {scheduled && played && <Playhead scheduled={scheduled} scale={scale} />}
          {scheduled && <PlayFromHere scheduled={scheduled} index={index} />}
        </div>
        <Figures lecture={lecture} row={row} onFix={mayChange ? onFix : null} />
      </div>
      {open && (
        <Suspense>
          <IntoView>
            {mayChange ? (
              <Bench lecture={lecture} slide={slide} index={index} />
            ) : (
              <Reading lecture={lecture} slide={slide} index={index} />
            )}
          </IntoView>
        </Suspense>
      )}
    </>
  )
})
