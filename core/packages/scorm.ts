/**
 * Tells a learning platform by SCORM how far a learner has come, and reads where they stopped.
 *
 * @see SCORM 1.2 Run-Time Environment, §3.3 (calls in order), §3.4 (data model); SCORM 2004 4th edition, Run-Time Environment, §3 and §4
 */
import { scoreOf } from '#core/model/question.ts'
import { isoDuration, scormTimespan } from './durations.ts'
import { interactionOf } from './interactions.ts'
import {
  type KeptListening,
  type LectureTimes,
  NOTHING_KEPT,
  type Progress,
  packListening,
  unpackListening,
} from './listening.ts'

/** The platform's functions of SCORM 1.2. All of them give and take text. */
export interface Scorm12Api {
  LMSInitialize(nothing: ''): string
  LMSFinish(nothing: ''): string
  LMSGetValue(name: string): string
  LMSSetValue(name: string, value: string): string
  LMSCommit(nothing: ''): string
  LMSGetLastError(): string
}
/** Those of SCORM 2004. */
export interface Scorm2004Api {
  Initialize(nothing: ''): string
  Terminate(nothing: ''): string
  GetValue(name: string): string
  SetValue(name: string, value: string): string
  Commit(nothing: ''): string
  GetLastError(): string
}

/** What one or the other is called, and how much it takes. */
interface Dialect {
  initialize(): string
  terminate(): string
  get(name: string): string
  set(name: string, value: string): string
  commit(): string
  error(): string
  learner: string
  place: string
  suspended: string
  /** Characters. */
  mostSuspended: number
  mode: string
  status: { name: string; unseen: RegExp }
  session: { name: string; written(seconds: number): string }
  /** Where the share that was heard is told; null where there is no place for it. */
  measure: string | null
  exit: { name: string; done: string }
  /** Names of what is told of a score, and of an answer. */
  score: { raw: string; min: string; max: string; scaled: string | null }
  interactions: { response: string; wrong: string; separator: ',' | '[,]' }
}

export const scorm12 = (api: Scorm12Api): Dialect => ({
  initialize: () => api.LMSInitialize(''),
  terminate: () => api.LMSFinish(''),
  get: (name) => api.LMSGetValue(name),
  set: (name, value) => api.LMSSetValue(name, value),
  commit: () => api.LMSCommit(''),
  error: () => api.LMSGetLastError(),
  learner: 'cmi.core.student_id',
  place: 'cmi.core.lesson_location',
  suspended: 'cmi.suspend_data',
  mostSuspended: 4096,
  mode: 'cmi.core.lesson_mode',
  status: { name: 'cmi.core.lesson_status', unseen: /^(not attempted)?$/ },
  session: { name: 'cmi.core.session_time', written: scormTimespan },
  measure: null,
  exit: { name: 'cmi.core.exit', done: '' },
  score: { raw: 'cmi.core.score.raw', min: 'cmi.core.score.min', max: 'cmi.core.score.max', scaled: null },
  interactions: { response: 'student_response', wrong: 'wrong', separator: ',' },
})

export const scorm2004 = (api: Scorm2004Api): Dialect => ({
  initialize: () => api.Initialize(''),
  terminate: () => api.Terminate(''),
  get: (name) => api.GetValue(name),
  set: (name, value) => api.SetValue(name, value),
  commit: () => api.Commit(''),
  error: () => api.GetLastError(),
  learner: 'cmi.learner_id',
  place: 'cmi.location',
  suspended: 'cmi.suspend_data',
  mostSuspended: 64_000,
  mode: 'cmi.mode',
  status: { name: 'cmi.completion_status', unseen: /^(unknown|not attempted)?$/ },
  session: { name: 'cmi.session_time', written: isoDuration },
  measure: 'cmi.progress_measure',
  exit: { name: 'cmi.exit', done: 'normal' },
  score: { raw: 'cmi.score.raw', min: 'cmi.score.min', max: 'cmi.score.max', scaled: 'cmi.score.scaled' },
  interactions: { response: 'learner_response', wrong: 'incorrect', separator: '[,]' },
})

export class ScormReport {
  readonly #to: Dialect
  readonly #times: LectureTimes
  #isOpen = false
  /** A review, or a look by the teacher, is told no status. */
  #counts = true
  #wasCompleted = false
  /** What the platform has: the same is not told again. */
  readonly #told = new Map<string, string>()
  /** Where the platform has each answer. */
  readonly #places = new Map<string, number>()
  /** How many it has of earlier sessions. */
  #earlier = 0
  /** Who learns, by the platform's name: in one browser there may be several. */
  learner = ''
  /** Names that it refused to take, with its number of the error. */
  readonly refused = new Map<string, string>()

  constructor(dialect: Dialect, times: LectureTimes) {
    this.#to = dialect
    this.#times = times
  }

  /** @returns what it kept; null where it does not answer */
  begin(): KeptListening | null {
    const { mode, status, place, suspended } = this.#to
    this.#isOpen = this.#to.initialize() === 'true'
    if (!this.#isOpen) return null
    this.learner = this.#to.get(this.#to.learner)
    const now = this.#to.get(mode)
    this.#counts = now === '' || now === 'normal'
    const known = this.#to.get(status.name)
    this.#wasCompleted = known === 'completed' || known === 'passed'
    this.#earlier = Number.parseInt(this.#to.get('cmi.interactions._count'), 10) || 0
    const kept = unpackListening(this.#to.get(suspended), this.#times.lengthSeconds)
    const at = Number.parseFloat(this.#to.get(place))
    if (this.#counts && status.unseen.test(known)) this.#set(status.name, 'incomplete')
    this.#to.commit()
    const isInside = at > 0 && at < this.#times.lengthSeconds
    return { ...NOTHING_KEPT, ...kept, ...(isInside ? { place: at } : {}), isCompleted: kept.isCompleted || this.#wasCompleted }
  }

  tell(progress: Progress) {
    if (!this.#isOpen) return
    const { place, suspended, mostSuspended, status, session, measure } = this.#to
    this.#set(place, progress.place.toFixed(1))
    this.#set(suspended, packListening(progress, this.#times.lengthSeconds, mostSuspended))
    this.#set(session.name, session.written(progress.sessionSeconds))
    if (measure) this.#set(measure, String(Math.floor(progress.heardShare * 10_000) / 10_000))
    if (this.#counts) this.#tellAnswers(progress)
    if (this.#counts && progress.isCompleted && !this.#wasCompleted) {
      this.#set(status.name, 'completed')
      // where it was refused it is told again
      this.#wasCompleted = this.#told.get(status.name) === 'completed'
    }
    this.#to.commit()
  }

  /** Each answer at a place of its own, in the order in which they were given; answered anew, it is written over. */
  #tellAnswers({ answered, questions }: Progress) {
    const score = scoreOf(answered, questions)
    if (score === null || answered.length === 0) return
    const { raw, min, max, scaled } = this.#to.score
    const { response, wrong, separator } = this.#to.interactions
    this.#set(min, '0')
    this.#set(max, '100')
    this.#set(raw, String(Math.round(score * 100)))
    if (scaled) this.#set(scaled, String(Math.round(score * 10_000) / 10_000))
    for (const one of answered) {
      const interaction = interactionOf(one, separator)
      const at = this.#places.get(interaction.id) ?? this.#earlier + this.#places.size
      this.#places.set(interaction.id, at)
      const name = (field: string) => `cmi.interactions.${at}.${field}`
      // the id and the type stand before what depends on them
      this.#set(name('id'), interaction.id)
      this.#set(name('type'), interaction.type)
      this.#set(name(response), interaction.response)
      this.#set(name('result'), interaction.isRight ? 'correct' : wrong)
    }
  }

  /** The last words: nothing can be told after them. */
  end(progress: Progress) {
    if (!this.#isOpen) return
    const { exit } = this.#to
    // who is not done comes back to where they were
    this.#set(exit.name, progress.isCompleted ? exit.done : 'suspend')
    this.tell(progress)
    this.#to.terminate()
    this.#isOpen = false
  }

  #set(name: string, value: string) {
    if (this.#told.get(name) === value) return
    if (this.#to.set(name, value) === 'true') {
      this.#told.set(name, value)
      this.refused.delete(name)
    } else this.refused.set(name, this.#to.error())
  }
}
