/** A running job: what it does, how far it is, and a way to stop it. */

import { toast } from 'sonner'
import { type Job, sentenceOf } from '#web/data/api.ts'
import { lectureApi } from '#web/data/endpoints/lecture.ts'

const NAMES = {
  import: 'Reading the deck',
  demo: 'Making the demo lecture',
  tidy: 'Tidying a take',
  publish: 'Making an edition',
  'pre-encode': 'Making parts ready',
  replace: 'Reading the new deck',
  'import-sound': 'Bringing a sound in',
  bed: 'Bringing music in',
  recording: 'Listening to a recording',
  'split-recording': 'Dividing a recording',
  align: 'Timing captions',
  'split-session': 'Dividing what was recorded',
  'patch-sentence': 'Putting a sentence in its place',
  recognise: 'Writing captions by ear',
} as const

export function JobProgress({ job, name = NAMES[job.kind] }: { job: Job; name?: string }) {
  const [cancel, { isLoading }] = lectureApi.useCancelJobMutation()
  const percent = Math.round(job.progress * 100)
  return (
    <section aria-label={name} className="py-2">
      <div className="mb-1 flex items-baseline gap-3 text-sm">
        <strong>{name}</strong>
        <span className="ml-auto text-base-content/75" aria-live="polite">
          {job.state === 'queued' ? 'waiting its turn' : `${job.stage} · ${percent} %`}
        </span>
        <button
          type="button"
          className="link"
          disabled={isLoading}
          onClick={() =>
            cancel(job.id)
              .unwrap()
              .catch((error) => toast.error(sentenceOf(error)))
          }
        >
          Cancel
        </button>
      </div>
      <progress className="progress progress-primary h-2 w-full" value={percent} max={100} aria-label={name} />
    </section>
  )
}
