/** What is still open before publishing, the one button that makes an edition, and the editions and links there are. */
import { CircleAlert, CircleCheck, CircleDashed } from 'lucide-react'
import { useMemo } from 'react'
import { Link, useParams } from 'react-router'
import { toast } from 'sonner'
import { publishedTracks } from '#core/captions/published-tracks.ts'
import { type Check, checks } from '#core/edition/checks.ts'
import { keptTake, type Lecture } from '#core/lecture.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { schedule } from '#core/timing/schedule.ts'
import { api, sentenceOf } from '#web/shared/api.ts'
import { clock, plural } from '#web/shared/format.ts'
import { whereToMend } from '#web/shared/ui/check-chip.tsx'
import { isActive, JobProgress } from '#web/shared/ui/job-progress.tsx'
import { Loading } from '#web/shared/ui/loading.tsx'
import { Nowhere } from '#web/shared/ui/nowhere.tsx'
import { TopBar } from '#web/shared/ui/top-bar.tsx'
import { useMend } from '#web/shared/use-mend.ts'
import { Editions } from './editions.tsx'

/** What holds, said only when it holds for every slide it could be said of. */
function holding(lecture: Lecture, found: Check[]): string[] {
  const spoken = lecture.slides.filter((slide) => !slide.hidden && keptTake(slide))
  const open = new Set(found.map((check) => check.kind))
  return [
    'Every slide is at least as long as its sound and a rest',
    ...(spoken.length > 1 && !open.has('uneven-loudness') && !open.has('not-tidied') ? ['All slides equally loud'] : []),
    ...(spoken.length > 0 && !open.has('no-captions') ? ['Captions on every spoken slide'] : []),
    ...(!open.has('no-alt-text') ? ['Every picture is described for those who cannot see it'] : []),
  ]
}

function Before({ lecture }: { lecture: Lecture }) {
  const found = useMemo(() => checks(lecture), [lecture])
  const mend = useMend(lecture)
  return (
    <section aria-labelledby="before" className="p-5">
      <h2 id="before" className="mb-2 font-read text-xl font-semibold">
        Before it goes out
      </h2>
      <ul>
        {found.map((check) => (
          <li
            key={`${check.kind} ${check.slideId}`}
            className="grid grid-cols-[1.4rem_1fr_auto] gap-x-1 border-t border-base-300 py-2.5"
          >
            {check.level === 'missing' ? (
              <CircleDashed size={16} aria-label="Missing" className="mt-1 text-error" />
            ) : (
              <CircleAlert size={16} aria-label="To look at" className="mt-1 text-secondary" />
            )}
            <span>
              {check.finding}
              <span className="block text-sm text-base-content/75">{check.advice}</span>
            </span>
            <span className="grid content-start justify-items-end gap-1">
              <Link to={whereToMend(lecture, check).to} className="font-medium text-primary hover:underline">
                {whereToMend(lecture, check).words}
              </Link>
              {check.mend && (
                <button type="button" className="btn btn-xs border-edge" onClick={() => mend(check)}>
                  {check.mend.label}
                </button>
              )}
            </span>
          </li>
        ))}
        {holding(lecture, found).map((sentence) => (
          <li key={sentence} className="grid grid-cols-[1.4rem_1fr] gap-x-1 border-t border-base-300 py-2.5">
            <CircleCheck size={16} aria-label="Fine" className="mt-1 text-success" />
            {sentence}
          </li>
        ))}
      </ul>
    </section>
  )
}

function Make({ lecture, next }: { lecture: Lecture; next: number }) {
  const { data: jobs = [] } = api.useJobsQuery()
  const [publish, { isLoading }] = api.usePublishMutation()
  const running = jobs.filter((job) => job.kind === 'publish' && job.lectureId === lecture.id && isActive(job))
  const newest = jobs.find((job) => job.kind === 'publish' && job.lectureId === lecture.id)
  const seconds = toSeconds(schedule(lecture).lengthSamples)
  const tracks = publishedTracks(lecture)
  const make = () =>
    publish(lecture.id)
      .unwrap()
      .catch((error) => toast.error(sentenceOf(error), { duration: 12_000 }))
  return (
    <section aria-labelledby="make" className="border-x border-base-300 p-5 max-md:border-x-0 max-md:border-y">
      <h2 id="make" className="mb-2 font-read text-xl font-semibold">
        How it is made
      </h2>
      <dl className="grid grid-cols-[7rem_1fr] gap-y-2 border-t border-base-300 py-3">
        <dt className="text-base-content/75">Length</dt>
        <dd>
          {clock(seconds)}, {plural(lecture.slides.filter((s) => !s.hidden).length, 'slide')}
        </dd>
        <dt className="text-base-content/75">Video</dt>
        <dd>MP4, 1080p. Plays on phones, laptops and learning platforms, with nothing else beside it</dd>
        <dt className="text-base-content/75">Captions</dt>
        <dd>
          {tracks.length === 0 ? 'none' : `${tracks.map((t) => t.language).join(', ')}: inside the video, and as .vtt files`}
        </dd>
        <dt className="text-base-content/75">Chapters</dt>
        <dd>one for each slide</dd>
      </dl>
      <button type="button" className="btn btn-primary" disabled={isLoading || running.length > 0} onClick={() => void make()}>
        Make edition {next}
      </button>
      <div className="mt-5">
        {running.map((job) => (
          <JobProgress key={job.id} job={job} name={`Edition ${next}`} />
        ))}
        {newest?.state === 'failed' && (
          <p role="alert" className="text-error">
            The last edition was not made. {newest.error}
          </p>
        )}
        {newest?.state === 'cancelled' && (
          <p className="text-base-content/75">The last edition was cancelled. Nothing of it is left.</p>
        )}
      </div>
    </section>
  )
}

export function Publish() {
  const { id } = useParams()
  const { data: lecture, error, isLoading } = api.useLectureQuery(id!)
  const { data: published } = api.useEditionsQuery(id!)
  if (isLoading) return <Loading what="the lecture" />
  if (!lecture) return <Nowhere sentence={sentenceOf(error)} />
  return (
    <div className="flex min-h-dvh flex-col">
      <TopBar lecture={lecture} />
      <main className="grid grow grid-cols-[4fr_5fr_4fr] max-md:grid-cols-1">
        <Before lecture={lecture} />
        <Make lecture={lecture} next={(published?.editions[0]?.number ?? 0) + 1} />
        {published && <Editions lectureId={lecture.id} editions={published.editions} links={published.links} />}
      </main>
    </div>
  )
}
