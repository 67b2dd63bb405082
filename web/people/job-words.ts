/** What each kind of work is called. */
import type { JobKind } from '#core/jobs/job.ts'
import { type Message, message } from '#core/words/say.ts'

export const JOB_WORDS: Record<JobKind, Message> = {
  import: message('reading a deck'),
  demo: message('making the demo lecture'),
  replace: message('comparing a new deck'),
  tidy: message('tidying a take'),
  align: message('finding words'),
  'read-answer': message('listening to answers'),
  'import-sound': message('bringing in a sound'),
  bed: message('bringing in music'),
  recording: message('bringing in a long recording'),
  'split-recording': message('dividing a long recording'),
  'split-session': message('dividing what was recorded straight through'),
  'patch-sentence': message('putting a sentence in its place'),
  'move-words': message('moving words'),
  film: message('making a film ready'),
  footage: message('making what was recorded by screen or camera ready'),
  recognise: message('drafting captions'),
  publish: message('making an edition'),
  'pre-encode': message('encoding ahead'),
}
