/** Where a recording changes slide, from whatever is known of it. */

import type { SampleRange } from '#core/model/sample-range.ts'
import { speakingWeight } from '#core/script/syllables.ts'
import { toSamples } from '#core/timing/clocks.ts'
import { type Boundary, proposeBoundaries } from '#core/timing/division/split.ts'
import { boundariesOf, type Visit } from '#core/timing/division/split-session.ts'
import { momentsProblem, parseTimes } from '#core/timing/parse-timecode.ts'
import { durationsToTimestamps } from '#core/timing/timestamps-to-durations.ts'
import { SaidError } from '#core/words/said-error.ts'
import { type Message, message } from '#core/words/say.ts'

/** Where the proposal comes from. */
export type From = 'marks' | 'pressed' | 'scripts' | 'pauses' | 'moments' | 'lengths'

export interface Question {
  from: From
  speech: readonly SampleRange[]
  /** A script each slide, in order. */
  scripts: readonly string[]
  language: string
  /** What was gone to while it was recorded; null for a recording from elsewhere. */
  visits: readonly Visit[] | null
  /** Times that were written down. */
  typed: string
  /** Length of the recording, seconds. */
  end: number
}

export interface Proposal {
  boundaries: Boundary[]
  /** A sentence, when nothing can be proposed. */
  problem: Message | null
}

const proposed = (boundaries: Boundary[]): Proposal => ({ boundaries, problem: null })
const refused = (problem: Message): Proposal => ({ boundaries: [], problem })

/** @throws SaidError when the recording has too few pauses */
function find({ from, speech, scripts, language, visits, typed, end }: Question): Proposal {
  const slides = scripts.length
  if (from === 'marks' && visits) return proposed(boundariesOf(visits, speech))
  if (from === 'pressed' && visits) return proposed(visits.slice(1).map((visit) => ({ at: visit.pressed, pause: null })))
  if (from === 'scripts') {
    const weights = scripts.map((script) => speakingWeight(script, language))
    return proposed(proposeBoundaries(speech, { from, weights }))
  }
  if (from === 'pauses') return proposed(proposeBoundaries(speech, { from, slides }))
  if (typed.trim() === '' && slides > 1) return refused(message('Write one time for each change, such as 0:06, 0:11, 0:19.'))
  const { seconds, problem } = parseTimes(typed)
  if (problem) return refused(problem)
  if (from === 'lengths' && seconds.length < slides - 1)
    return refused(
      message(
        '{slides} slides have {slides} lengths; there {given, plural, one {is #} other {are #}}. Add those that are missing.',
        {
          slides,
          given: seconds.length,
        },
      ),
    )
  const moments = from === 'moments' ? seconds : durationsToTimestamps(seconds.slice(0, slides)).moments
  const wrong = momentsProblem(moments, slides, end)
  return wrong ? refused(wrong) : proposed(proposeBoundaries(speech, { from: 'marks', marks: moments.map(toSamples) }))
}

export function propose(question: Question): Proposal {
  try {
    return find(question)
  } catch (error) {
    if (error instanceof SaidError) return refused(error.said)
    throw error
  }
}
