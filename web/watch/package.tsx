/** The watch page in a package for a learning platform: it tells the platform how far somebody has come. */
import type { Answered } from '#core/model/question.ts'
import { Listening, NOTHING_KEPT, type Progress } from '#core/packages/listening.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { say } from '#core/words/say.ts'
import type { Source } from './edition/edition.ts'
import { openReport, type PackageSettings } from './packages/open-report.ts'
import type { Report } from './packages/report.ts'
import { packedEdition, showPacked } from './packed.tsx'

declare global {
  interface Window {
    lecternPackage: PackageSettings
  }
}

/** Between two reports while it plays. */
const EVERY_MS = 10_000
/** A platform that says nothing for so long is not waited for. */
const PATIENCE_MS = 8000

const withPatience = <T,>(answer: Promise<T>, otherwise: T): Promise<T> =>
  Promise.race([answer, new Promise<T>((resolve) => setTimeout(resolve, PATIENCE_MS, otherwise))])

/** Tells the report when something has changed, and at last when the page is left. */
class Teller {
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

async function begin(): Promise<Partial<Source>> {
  const { id, lengthSamples, chapters, title, language } = packedEdition()
  const times = {
    lengthSeconds: toSeconds(lengthSamples),
    slideStarts: chapters.map((chapter) => toSeconds(chapter.startSamples)),
    share: window.lecternPackage.share,
  }
  const report = openReport(window.lecternPackage, { ...times, title, language })
  const kept = report
    ? await withPatience(
        report.begin().catch(() => null),
        null,
      )
    : null
  if (!report || (kept === null && !report.isLate))
    return { notice: say('No learning platform answers here: the lecture is shown, and nothing is told of who watches it.') }
  const teller = new Teller(report, new Listening(times, kept ?? NOTHING_KEPT, performance.now()))
  return {
    // on a computer that several people use, each is asked for themselves
    place: `${id} ${report.learner}`,
    onMoment: teller.see,
    onAnswered: teller.answer,
    resumeAt: kept?.place ?? 0,
    ...(kept === null && {
      notice: say('The learning platform does not answer now. How far you come is kept in this browser and told later.'),
    }),
  }
}

void showPacked(begin)
