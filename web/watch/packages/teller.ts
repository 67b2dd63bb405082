/** Tells a report when something has changed, and at last when the page is left. */
import type { Answered } from '#core/model/question.ts'
import type { Listening, Progress } from '#core/packages/listening.ts'
import type { Report } from './report.ts'

/** Between two reports while it plays. */
const EVERY_MS = 10_000
export class Teller {
  readonly #report: Report
  readonly #listening: Listening
  #isPlaying = false
  #wasCompleted: boolean

  constructor(report: Report, listening: Listening) {
    this.#report = report
    this.#listening = listening
    this.#wasCompleted = this.#progress().isCompleted
    setInterval(() => this.#isPlaying && this.#tell(), EVERY_MS)
    document.addEventListener('visibilitychange', () => document.visibilityState === 'hidden' && this.#tell())
    addEventListener('pagehide', () => report.end(this.#progress()))
    // its session has ended: a new one begins
    addEventListener('pageshow', ({ persisted }) => persisted && location.reload())
  }

  readonly answer = (all: readonly Answered[], questions: number) => {
    this.#listening.answer(all, questions)
    this.#tell()
  }

  readonly see = (moment: number, isPlaying: boolean) => {
    this.#listening.see(moment, isPlaying, performance.now())
    const hasStopped = this.#isPlaying && !isPlaying
    this.#isPlaying = isPlaying
    const { isCompleted } = this.#progress()
    if (hasStopped || isCompleted !== this.#wasCompleted) this.#tell()
    this.#wasCompleted = isCompleted
  }

  #progress(): Progress {
    return this.#listening.progress(performance.now())
  }

  #tell() {
    this.#report.tell(this.#progress())
  }
}
