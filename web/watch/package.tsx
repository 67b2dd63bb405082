/** The watch page in a package for a learning platform: it tells the platform how far somebody has come. */
import { Listening, NOTHING_KEPT } from '#core/packages/listening.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { say } from '#core/words/say.ts'
import type { Source } from './edition/edition.ts'
import { openReport, type PackageSettings } from './packages/open-report.ts'
import { Teller } from './packages/teller.ts'
import { packedEdition, showPacked } from './packed.tsx'

declare global {
  interface Window {
    lecternPackage: PackageSettings
  }
}

/** A platform that says nothing for so long is not waited for. */
const PATIENCE_MS = 8000

const withPatience = <T,>(answer: Promise<T>, otherwise: T): Promise<T> =>
  Promise.race([answer, new Promise<T>((resolve) => setTimeout(resolve, PATIENCE_MS, otherwise))])

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
