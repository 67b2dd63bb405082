/** One recording of the whole lecture, or of a run of slides, divided: each change of slide in a real pause. */

import { FileAudio, Trash2 } from 'lucide-react'
import { useDeferredValue, useState } from 'react'
import { useDropzone } from 'react-dropzone'
import { useNavigate, useParams } from 'react-router'
import { toast } from 'sonner'
import type { Lecture } from '#core/model/lecture.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { clock, moment } from '#web/components/format.ts'
import { Loading } from '#web/components/loading.tsx'
import { api, ask, client, type Recording, sentenceOf } from '#web/data/api.ts'
import { divideApi } from '#web/data/endpoints/divide.ts'
import { isActive } from '#web/data/job-state.ts'
import { useAppDispatch } from '#web/data/store.ts'
import { useJobEnd } from '#web/data/use-job-end.ts'
import { JobProgress } from '#web/lecture-ui/job-progress.tsx'
import { NotFoundPage } from '#web/shell/not-found-page.tsx'
import { TopBar } from '#web/shell/top-bar.tsx'
import { Division } from './division.tsx'

function Bring({ lecture, first }: { lecture: Lecture; first: boolean }) {
  const [add, { isLoading }] = api.useAddRecordingMutation()
  const { data: jobs = [] } = api.useJobsQuery()
  const whenEnded = useJobEnd()
  const coming = jobs.filter((job) => job.kind === 'recording' && job.lectureId === lecture.id && isActive(job))
  const zone = useDropzone({
    multiple: false,
    onDrop: async ([file]) => {
      if (!file) return
      try {
        whenEnded(await add({ id: lecture.id, file }).unwrap(), () => {})
      } catch (error) {
        toast.error(sentenceOf(error))
      }
    },
  })
  return (
    <>
      {coming.map((job) => (
        <JobProgress key={job.id} job={job} />
      ))}
      <div
        {...zone.getRootProps()}
        className={`cursor-pointer rounded-md border border-dashed border-edge p-6 text-center ${zone.isDragActive ? 'bg-base-200' : ''}`}
      >
        <input {...zone.getInputProps()} aria-label={say('Recording of the whole lecture')} />
        <FileAudio className="mx-auto mb-2 text-base-content/75" aria-hidden />
        <p className="font-read text-lg font-semibold">{first ? say('Bring your recording') : say('Another recording')}</p>
        <p className="mx-auto mt-1 max-w-md text-sm text-base-content/75">
          {isLoading
            ? say('It is on its way.')
            : say('Drop one sound or video file here, or choose it: WAV, FLAC, MP3, M4A, OGG and most others, up to six hours.')}
        </p>
      </div>
    </>
  )
}

function List({ lecture, recordings }: { lecture: Lecture; recordings: Recording[] }) {
  const navigate = useNavigate()
  const dispatch = useAppDispatch()
  const setDeleted = async (id: string, deleted: boolean) => {
    await ask(client.recordings[':id'].deleted.$put({ param: { id }, json: { deleted } })).catch((error) =>
      toast.error(sentenceOf(error)),
    )
    dispatch(api.util.invalidateTags([{ type: 'recordings', id: lecture.id }]))
  }
  return (
    <ul className="mb-6" aria-label={say('Recordings')}>
      {recordings.map((recording) => (
        <li key={recording.id} className="flex items-center gap-4 border-b border-base-300 py-2">
          <span className="min-w-0 grow truncate">
            <strong>{recording.name}</strong>{' '}
            <span className="text-sm text-base-content/75">
              {clock(toSeconds(recording.samples), 0)} · {moment(recording.createdAt)}
              {recording.dividedAt !== null && ` · ${say('divided')}`}
            </span>
          </span>
          <Button onClick={() => void navigate(`/lectures/${lecture.id}/divide/${recording.id}`)}>
            {recording.dividedAt === null ? say('Divide') : say('Divide again')}
          </Button>
          <Button
            kind="ghost"
            square
            aria-label={say('Delete {name}', { name: recording.name })}
            onClick={async () => {
              await setDeleted(recording.id, true)
              toast(say('“{name}” was deleted. Takes made of it stay.', { name: recording.name }), {
                action: { label: say('Undo'), onClick: () => void setDeleted(recording.id, false) },
              })
            }}
          >
            <Trash2 size={16} aria-hidden />
          </Button>
        </li>
      ))}
    </ul>
  )
}

export function Divide() {
  const { id, recordingId } = useParams()
  const { data: lecture, error, isLoading } = api.useLectureQuery(id!)
  const { data: recordings } = divideApi.useRecordingsQuery(id!)
  const [seen, setSeen] = useState<string[] | null>(null)
  const navigate = useNavigate()
  const recording = recordings?.find((r) => r.id === recordingId)
  // an hour over sixty slides is much to draw: in portions, after the head of the page
  const shown = useDeferredValue(recording)
  if (isLoading || !recordings) return <Loading what={say('the recordings')} />
  if (!lecture) return <NotFoundPage sentence={sentenceOf(error)} />
  // a recording that has just come in is opened by itself
  const known = seen ?? recordings.map((r) => r.id)
  const fresh = recordings.find((r) => !known.includes(r.id))
  if (seen === null) setSeen(known)
  else if (fresh) {
    setSeen([...seen, fresh.id])
    if (!recordingId) void navigate(`/lectures/${lecture.id}/divide/${fresh.id}`, { replace: true })
  }
  return (
    <div className="flex min-h-dvh flex-col">
      <TopBar place={say('One recording of the whole lecture')} lecture={lecture} />
      {shown && <Division key={shown.id} lecture={lecture} recording={shown} />}
      {!recording && !shown && (
        <main className="mx-auto w-full max-w-3xl grow p-6">
          <h2 className="font-read text-xl font-semibold">{say('One recording of the whole lecture')}</h2>
          <p className="mt-1 mb-4 text-base-content/80">
            {say(
              'Its pauses are found, a change of slide is proposed in {changes} of them, and you move those that are not right. Then every slide gets its part as a take.',
              { changes: Math.max(0, lecture.slides.length - 1) },
            )}
          </p>
          {recordings.length > 0 && <List lecture={lecture} recordings={recordings} />}
          <Bring lecture={lecture} first={recordings.length === 0} />
        </main>
      )}
    </div>
  )
}
