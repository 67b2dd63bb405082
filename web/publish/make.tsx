/** How an edition is made: kinds of video with what each will weigh, what stands in the picture, and the one button. */

import { CircleCheck } from 'lucide-react'
import { useMemo } from 'react'
import { toast } from 'sonner'
import { publishedTracks } from '#core/captions/tracks/published-tracks.ts'
import { changesBetween } from '#core/edition/manifest.ts'
import { plan, settingsFingerprint, slideCaptions, slideFingerprint } from '#core/edition/plan.ts'
import type { CaptionTrack } from '#core/model/caption.ts'
import { type ExportSettings, PRESETS, type Preset } from '#core/model/export-settings.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { schedule } from '#core/timing/schedule.ts'
import { languageName } from '#core/words/language-name.ts'
import { type Message, message, say } from '#core/words/say.ts'
import { clock, megabytes } from '#web/components/format.ts'
import { api, type Edition, sentenceOf, type VideoEstimate } from '#web/data/api.ts'
import { useDraft } from '#web/data/draft/use-draft.ts'
import { publishApi } from '#web/data/endpoints/publish.ts'
import { isActive } from '#web/data/job-state.ts'
import { JobProgress } from '#web/lecture-ui/job-progress.tsx'
import { CrestChoice } from './crest-choice.tsx'
import { useExportSettings } from './use-export-settings.ts'

const KINDS: Record<Preset, { name: Message; says: Message }> = {
  standard: { name: message('Standard'), says: message('MP4 for phones, laptops and learning platforms') },
  small: { name: message('Small'), says: message('MP4, 720p, one sound channel: for slow lines and small screens') },
  everywhere: {
    name: message('Everywhere'),
    says: message('MP4 at a constant rate: for televisions and upload services that refuse others'),
  },
  open: { name: message('Open format'), says: message('WebM, free of licences: for sites that ask for open formats') },
}
const HEIGHTS: { height: ExportSettings['height']; words: Message }[] = [
  { height: 720, words: message('720p') },
  { height: 1080, words: message('1080p, the usual') },
  { height: 2160, words: message('4K, for large walls') },
]

/** Pictures narrower than this gain nothing by 4K. */
const SHARP_4K = 2560

/** How long making takes, in words that promise no more than is known. */
function duration(seconds: number): string {
  if (seconds < 10) return say('a few seconds')
  if (seconds < 90) return say('about {seconds} seconds', { seconds: Math.ceil(seconds / 10) * 10 })
  return say('about {seconds, plural, one {# minute} other {# minutes}}', { seconds: Math.ceil(seconds / 60) })
}

function Kinds({ lecture, estimates }: { lecture: Lecture; estimates: VideoEstimate[] }) {
  const { exportSettings } = lecture
  const change = useExportSettings(lecture)
  const toggle = (preset: Preset) => {
    const wanted = PRESETS.filter((p) =>
      p === preset ? !exportSettings.presets.includes(p) : exportSettings.presets.includes(p),
    )
    if (wanted.length === 0) toast(say('An edition needs a video: choose another kind first.'))
    else change({ presets: wanted }, say('kinds of video'))
  }
  return (
    <fieldset className="border-t border-base-300 py-3">
      <legend className="sr-only">{say('Kinds of video')}</legend>
      {PRESETS.map((preset) => {
        const told = estimates.find((video) => video.preset === preset)
        return (
          <label key={preset} className="grid grid-cols-[1.6rem_1fr_6.5rem] items-baseline gap-x-2 py-1.5">
            <input
              type="checkbox"
              className="checkbox checkbox-sm translate-y-1 border-edge"
              checked={exportSettings.presets.includes(preset)}
              onChange={() => toggle(preset)}
            />
            <span>
              <strong>{say(KINDS[preset].name)}</strong>
              <span className="block text-sm text-base-content/75">{say(KINDS[preset].says)}</span>
            </span>
            <span className="text-end text-sm">
              {told ? (
                <>
                  {say('about {size}', { size: megabytes(told.bytes) })}
                  <span className="block text-base-content/75">{duration(told.seconds)}</span>
                </>
              ) : (
                <span className="text-base-content/75">{say('reckoning')}</span>
              )}
            </span>
          </label>
        )
      })}
    </fieldset>
  )
}

/** How much of the work is done before anybody asks for it. */
function Ready({ lecture, estimates }: { lecture: Lecture; estimates: VideoEstimate[] }) {
  const chosen = estimates.filter((video) => lecture.exportSettings.presets.includes(video.preset))
  const segments = chosen.reduce((sum, video) => sum + video.segments, 0)
  const ready = chosen.reduce((sum, video) => sum + video.ready, 0)
  if (segments === 0) return null
  return (
    <p className="text-sm text-base-content/75">
      {ready === segments
        ? say('Every part of it is ready; only joining is left.')
        : say(
            '{ready} of {segments, plural, one {# part} other {# parts}} are ready. The others are made while you work, or now.',
            { ready, segments },
          )}
    </p>
  )
}

/** "English (27 from the scripts)": learners get one track a language, and this is it. */
function whichTrack(track: CaptionTrack): string {
  const shown = track.cues.filter((cue) => cue.text !== '').length
  const from = {
    script: say('from the scripts'),
    file: say('from {label}', { label: track.label }),
    translation: say('translated'),
  }[track.origin]
  return `${languageName(track.language)} (${shown} ${from})`
}

function Details({ lecture }: { lecture: Lecture }) {
  const { exportSettings } = lecture
  const change = useExportSettings(lecture)
  const author = useDraft(lecture.id, 'author', say('name of who speaks'), exportSettings.author, (text) => [
    { kind: 'lecture', change: { exportSettings: { ...exportSettings, author: text } } },
  ])
  const tracks = publishedTracks(lecture)
  const widest = Math.max(0, ...lecture.slides.flatMap((slide) => slide.steps.map((step) => step.width)))
  return (
    <div className="grid grid-cols-[8.5rem_minmax(0,1fr)] max-sm:grid-cols-[minmax(0,1fr)] items-center gap-x-2 gap-y-2 border-t border-base-300 py-3 text-sm">
      <label htmlFor="height">{say('Picture')}</label>
      <select
        id="height"
        className="select select-sm w-72 max-w-full border-edge bg-base-100"
        value={exportSettings.height}
        onChange={({ target }) =>
          change({ height: Number(target.value) as ExportSettings['height'] }, say('size of the picture'))
        }
      >
        {HEIGHTS.map(({ height, words }) => (
          <option key={height} value={height}>
            {say(words)}
          </option>
        ))}
      </select>
      {exportSettings.height === 2160 && widest < SHARP_4K && (
        <span className="col-span-full text-base-content/75">
          {say('Your pictures are at most {widest} pixels wide: 4K makes the file larger and shows no more than 1080p.', {
            widest,
          })}
        </span>
      )}
      <span>{say('Captions')}</span>
      <span>
        {tracks.length === 0
          ? say('none yet')
          : say('{tracks}: inside the video, and as files beside it', { tracks: tracks.map(whichTrack).join('; ') })}
      </span>
      {tracks.length > 0 && (
        <>
          <label htmlFor="burned">{say('Captions in the picture')}</label>
          <select
            id="burned"
            className="select select-sm w-72 max-w-full border-edge bg-base-100"
            value={exportSettings.burnedIn ?? ''}
            onChange={({ target }) => change({ burnedIn: target.value || null }, say('captions drawn into the picture'))}
          >
            <option value="">{say('No, learners can turn them off')}</option>
            {tracks.map((track) => (
              <option key={track.language} value={track.language}>
                {say('{language}, always seen', { language: languageName(track.language) })}
              </option>
            ))}
          </select>
        </>
      )}
      <span>{say('Sound alone')}</span>
      <label className="flex items-center gap-2">
        <span>{say('M4A, and')}</span>
        <input
          type="checkbox"
          className="checkbox checkbox-sm border-edge"
          checked={exportSettings.mp3}
          onChange={({ target }) => change({ mp3: target.checked }, 'MP3')}
        />
        {say('MP3 too, which takes longer')}
      </label>
      <label htmlFor="author">{say('Who speaks')}</label>
      <input
        id="author"
        className="input input-sm w-72 max-w-full border-edge bg-base-100"
        placeholder={say('Shown by players')}
        maxLength={200}
        value={author.text}
        onChange={({ target }) => author.type(target.value)}
        onBlur={author.leave}
      />
      <span className="self-start pt-1">{say('In the corner')}</span>
      <CrestChoice lecture={lecture} />
    </div>
  )
}

/** Whether an edition shows the lecture as it is: the same slides, made in the same way. */
function isTheSame(lecture: Lecture, edition: Edition): boolean {
  const slides = plan(lecture).slides.map((slide) => ({
    slideId: slide.slideId,
    title: slide.title,
    fingerprint: slideFingerprint(slide, slideCaptions(lecture, slide.slideId)),
  }))
  const made = new Set(edition.videos.map((video) => video.preset))
  // early editions say no more than which videos they have
  const isMadeAlike =
    edition.settings === null
      ? lecture.exportSettings.presets.every((preset) => made.has(preset))
      : edition.settings === settingsFingerprint(lecture)
  return isMadeAlike && changesBetween(edition.slides, slides).length === 0
}

export function Make({ lecture, newest: edition }: { lecture: Lecture; newest: Edition | undefined }) {
  const next = (edition?.number ?? 0) + 1
  const shown = lecture.slides.filter((slide) => !slide.hidden).length
  const isMade = useMemo(() => edition !== undefined && shown > 0 && isTheSame(lecture, edition), [lecture, edition, shown])
  const { data: jobs = [] } = api.useJobsQuery()
  const { data: estimates = [] } = publishApi.useEstimatesQuery(lecture.id)
  const [publish, { isLoading }] = publishApi.usePublishMutation()
  const running = jobs.filter((job) => job.kind === 'publish' && job.lectureId === lecture.id && isActive(job))
  const newest = jobs.find((job) => job.kind === 'publish' && job.lectureId === lecture.id)
  const seconds = toSeconds(schedule(lecture).lengthSamples)
  const make = () =>
    publish(lecture.id)
      .unwrap()
      .catch((error) => toast.error(sentenceOf(error)))
  return (
    <section aria-labelledby="make" className="border-x border-base-300 p-5 max-md:border-x-0 max-md:border-y">
      <h2 id="make" className="mb-1 font-read text-xl font-semibold">
        {say('How it is made')}
      </h2>
      <p className="pb-2 text-sm text-base-content/75">
        {say('{length}, {shown, plural, one {# slide} other {# slides}}, a chapter for each', {
          length: clock(seconds),
          shown,
        })}
      </p>
      <Kinds lecture={lecture} estimates={estimates} />
      <Details lecture={lecture} />
      <div className="grid justify-items-start gap-2 border-t border-base-300 pt-4">
        <button
          type="button"
          className={`btn ${isMade ? 'border-edge' : 'btn-primary'}`}
          disabled={isLoading || running.length > 0 || shown === 0}
          onClick={() => void make()}
        >
          {say('Make edition {next}', { next })}
        </button>
        {shown === 0 && (
          <p className="text-sm text-base-content/75">{say('There is no slide to show: add one on the sheet first.')}</p>
        )}
        {isMade && (
          <p className="flex items-center gap-1.5 text-sm">
            <CircleCheck size={15} aria-hidden className="text-success" />{' '}
            {say('Nothing has changed since edition {number}.', { number: edition!.number })}
          </p>
        )}
        <Ready lecture={lecture} estimates={estimates} />
      </div>
      <div className="mt-4">
        {running.map((job) => (
          <JobProgress key={job.id} job={job} name={say('Edition {next}', { next })} />
        ))}
        {newest?.state === 'failed' && (
          <p role="alert" className="text-error">
            {say('The last edition was not made. {error}', { error: newest.error ?? '' })}
          </p>
        )}
        {newest?.state === 'cancelled' && (
          <p className="text-base-content/75">{say('The last edition was cancelled. Nothing of it is left.')}</p>
        )}
      </div>
    </section>
  )
}
