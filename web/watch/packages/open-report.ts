/** The report of a package, in the language that its platform speaks. */
import type { LectureTimes } from '#core/packages/listening.ts'
import { ScormReport, scorm12, scorm2004 } from '#core/packages/scorm.ts'
import { findScorm12, findScorm2004 } from './find-scorm.ts'
import type { Report } from './report.ts'
import { launchOf, XapiReport } from './xapi-report.ts'

export interface PackageSettings {
  kind: 'scorm-1.2' | 'scorm-2004' | 'cmi5' | 'xapi'
  /** Which share of the lecture must be heard, 0 to 1. */
  share: number
  /** Name of the lecture for platforms: an address that is no address. */
  activityId: string
}

/** @returns null where there is no platform */
export function openReport(
  { kind, activityId }: PackageSettings,
  lecture: LectureTimes & { title: string; language: string },
): Report | null {
  if (kind === 'cmi5' || kind === 'xapi') {
    const launch = launchOf(kind, new URLSearchParams(location.search), { ...lecture, activityId })
    return launch && new XapiReport(launch, lecture)
  }
  const dialect = kind === 'scorm-1.2' ? wrap(findScorm12(window), scorm12) : wrap(findScorm2004(window), scorm2004)
  if (!dialect) return null
  const report = new ScormReport(dialect, lecture)
  return {
    begin: async () => report.begin(),
    tell: (progress) => report.tell(progress),
    end: (progress) => report.end(progress),
    get learner() {
      return report.learner
    },
    isLate: false,
  }
}

const wrap = <Api, Dialect>(api: Api | null, make: (api: Api) => Dialect): Dialect | null => (api ? make(api) : null)
