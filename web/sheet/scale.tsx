/** The one time scale of the sheet. */

import { toSeconds } from '#core/timing/clocks.ts'
import type { Schedule } from '#core/timing/schedule.ts'
import { say } from '#core/words/say.ts'

export interface Scale {
  /** Width of every strip. */
  width: number
  pixelsASecond: number
  seconds: number
}

const SHORTEST_S = 20
/** A slide far longer than this scrolls the scale for all others into nothing; it is cut off at the edge instead. */
const LONGEST_S = 600

/** @param width pixels there are for strips */
export function scaleFor(plan: Schedule, width: number): Scale {
  const longest = Math.max(SHORTEST_S, ...plan.slides.map((s) => toSeconds(s.lengthSamples)))
  const seconds = Math.min(LONGEST_S, longest * 1.05)
  return { width, seconds, pixelsASecond: width / seconds }
}

const STEPS = [1, 2, 5, 10, 20, 30, 60, 120]
const NARROWEST_STEP = 110

/** Columns shared by ruler and rows: number and picture, strip, length. */
export const COLUMNS = 'grid grid-cols-[13.5rem_1fr_11rem] max-md:grid-cols-[7rem_1fr_7.5rem] max-sm:grid-cols-[7rem_1fr]'

export function Ruler({ measure, scale }: { measure: (element: HTMLElement | null) => void; scale: Scale }) {
  const step = STEPS.find((s) => s * scale.pixelsASecond >= NARROWEST_STEP) ?? 300
  const ticks = Array.from({ length: Math.floor(scale.seconds / step) + 1 }, (_, i) => i * step)
  return (
    <div className={`${COLUMNS} sticky top-0 z-10 border-b border-base-300 bg-base-100 text-xs text-base-content/75`}>
      <span />
      <div ref={measure} dir="ltr" className="relative h-6 overflow-x-clip" aria-hidden="true">
        {scale.width > 0 &&
          ticks.map((tick) => (
            <span
              key={tick}
              className="absolute top-1 border-l border-base-300 pl-1 whitespace-nowrap"
              style={{ left: tick * scale.pixelsASecond }}
            >
              {say('{seconds} s', { seconds: tick })}
            </span>
          ))}
      </div>
      <span className="border-s border-base-300 px-4 py-1 max-sm:hidden">{say('Length')}</span>
    </div>
  )
}
