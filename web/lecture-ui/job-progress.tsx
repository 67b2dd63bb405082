/** A running job: what it does, how far it is, and a way to stop it. */

import { toast } from 'sonner'
import { message, say } from '#core/words/say.ts'
import { percent } from '#web/components/format.ts'
import { type Job, sentenceOf } from '#web/data/api.ts'
import { lectureApi } from '#web/data/endpoints/lecture.ts'

const NAMES = {
  import: message('Reading the deck'),
  demo: message('Making the demo lecture'),
  tidy: message('Tidying a take'),
  publish: message('Making an edition'),
  'pre-encode': message('Making parts ready'),
  replace: message('Reading the new deck'),
  'import-sound': message('Bringing a sound in'),
  bed: message('Bringing music in'),
  recording: message('Listening to a recording'),
  'split-recording': message('Dividing a recording'),
  align: message('Timing captions'),
  'read-answer': message('Listening to an answer'),
  'split-session': message('Dividing what was recorded'),
  'patch-sentence': message('Putting a sentence in its place'),
  'move-words': message('Moving words to another slide'),
  film: message('Making a film ready'),
  footage: message('Making what was recorded ready'),
  recognise: message('Writing captions by ear'),
} as const

export function JobProgress({ job, name = say(NAMES[job.kind]) }: { job: Job; name?: string }) {
  const [cancel, { isLoading }] = lectureApi.useCancelJobMutation()
  const done = Math.round(job.progress * 100)
  return (
    <section aria-label={name} className="py-2">
      <div className="mb-1 flex items-baseline gap-3 text-sm">
        <strong>{name}</strong>
        <span className="ms-auto text-base-content/75" aria-live="polite">
          {job.state === 'queued' ? say('waiting its turn') : [say(job.stage), percent(job.progress)].filter(Boolean).join(' · ')}
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
          {say('Cancel')}
        </button>
      </div>
      <progress className="progress progress-primary h-2 w-full" value={done} max={100} aria-label={name} />
    </section>
  )
}
