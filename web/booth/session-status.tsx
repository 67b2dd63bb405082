/** What is said under the slide while one records: where the sound is, which keys were heard, what came of it. */

import { Link } from 'react-router'
import type { Lecture } from '#core/model/lecture.ts'
import type { Mark } from '#core/model/marks.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { say } from '#core/words/say.ts'
import { clock } from '#web/components/format.ts'
import { api } from '#web/data/api.ts'
import { isActive } from '#web/data/job-state.ts'
import { JobProgress } from '#web/lecture-ui/job-progress.tsx'
import { isUnderWay } from '#web/recorder/recording-session.ts'
import type { SessionView } from './session/use-recording-session.ts'

/** Where the sound is: on disk, on its way, or kept in this browser for now. */
export function UploadStatus({ session }: { session: SessionView }) {
  const { upload, state, problem } = session
  const text = problem
    ? problem
    : upload?.state === 'refused'
      ? upload.problem
      : upload?.state === 'waiting'
        ? say('{problem} Your recording is kept in this browser and is sent when the server is back.', {
            problem: upload.problem ?? '',
          })
        : isUnderWay(state) && upload
          ? say('Everything up to {sent} is on disk', { sent: clock(upload.sent, 0) })
          : upload?.state === 'sealed'
            ? say('The take is on disk, whole.')
            : ''
  const grave = problem !== null || upload?.state === 'refused' || upload?.state === 'waiting'
  return (
    // how much is on disk is read by whoever looks for it, and not said into the headphones of who speaks
    <p
      role={grave ? 'alert' : isUnderWay(state) ? undefined : 'status'}
      className={`text-sm ${grave ? 'text-warning' : 'text-base-content/75'}`}
    >
      {text}
    </p>
  )
}

/** That a key was heard: what was marked, and when. */
function Told({ marks, underWay }: { marks: Mark[]; underWay: boolean }) {
  const wrongs = marks.filter((mark) => mark.kind === 'wrong')
  const bookmarks = marks.filter((mark) => mark.kind === 'bookmark')
  const at = (mark: Mark) => clock(toSeconds(mark.at))
  return (
    <p className="text-sm" role="status">
      {[
        ...(underWay && wrongs.length > 0
          ? [
              say('{wrongs, plural, one {# thing} other {# things}} marked as wrong; cutting is offered on the sheet.', {
                wrongs: wrongs.length,
              }),
            ]
          : []),
        ...(bookmarks.length > 0
          ? [
              say('{count, plural, one {Bookmark at {at}.} other {# bookmarks, the last one at {at}.}}', {
                count: bookmarks.length,
                at: at(bookmarks.at(-1)!),
              }),
            ]
          : []),
      ].join(' ')}
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
      {say('{takes, plural, one {# take} other {# takes}} made.', { takes })}{' '}
      {moved > 0 &&
        say(
          '{moved, plural, one {# change of slide was} other {# changes of slide were}} moved to the pause near the key press.',
          { moved },
        )}{' '}
      {outside > 0 &&
        say('{outside, plural, one {# change stands} other {# changes stand}} where the key was pressed: no pause was near.', {
          outside,
        })}{' '}
      <Link className="link" to={`/lectures/${lecture.id}/divide/${takeId}`}>
        {say('See and move them')}
      </Link>
    </p>
  )
}

export function SessionStatus({ lecture, session }: { lecture: Lecture; session: SessionView }) {
  const underWay = isUnderWay(session.state)
  return (
    <>
      <p role="status" className="sr-only">
        {session.state === 'recording' ? say('Recording') : ''}
      </p>
      <UploadStatus session={session} />
      {session.pictureProblem && (
        <p role="alert" className="text-sm text-warning">
          {session.pictureProblem}
        </p>
      )}
      <Told marks={session.marks} underWay={underWay} />
      {session.continuousTakeId && !underWay && <Outcome lecture={lecture} takeId={session.continuousTakeId} />}
    </>
  )
}
