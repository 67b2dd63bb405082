/** Which slides stand out, in words. */

import { keptTake } from '#core/model/kept-take.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { pace, spokenLength } from '#core/script/pace.ts'
import { figure } from '#core/words/figures.ts'
import { say } from '#core/words/say.ts'
import { toSeconds } from './clocks.ts'
import type { Schedule } from './schedule.ts'

/** Common practice, no published source: slower bores, faster loses listeners. Words a minute. */
export const COMFORTABLE_PACE = { slowest: 110, fastest: 160 }
/** A slide this many times longer than the middle one stands out, when it is also this much longer. */
const FAR_LONGER = 2.2
const FAR_LONGER_S = 20
/** Words said beside the script make the pace meaningless when there are so few in it. */
const FEWEST_WORDS = 12

export interface SlideProfile {
  slideId: string
  /** Place in the lecture, from 1, hidden slides counted. */
  number: number
  seconds: number
  /** What its script will probably take; null without one. */
  expectedSeconds: number | null
  /** Words a minute; null while nothing is spoken or written. */
  pace: number | null
  spoken: boolean
}

/** @returns one entry for each shown slide, in order */
export function profileOf(lecture: Pick<Lecture, 'slides' | 'language'>, times: Schedule): SlideProfile[] {
  const places = new Map(lecture.slides.map((slide, i) => [slide.id, i]))
  return times.slides.map((s) => {
    const place = places.get(s.slideId)!
    const slide = lecture.slides[place]!
    const { words, seconds: expected } = spokenLength(slide.script, slide.language ?? lecture.language)
    return {
      slideId: s.slideId,
      number: place + 1,
      seconds: toSeconds(s.lengthSamples),
      expectedSeconds: expected > 0 ? expected : null,
      pace: words >= FEWEST_WORDS && keptTake(slide) ? pace(words, toSeconds(s.clipSamples)) : null,
      spoken: s.clipSamples > 0,
    }
  })
}

/**
 * How long the lecture will be: as it is scheduled, but for slides that nobody has spoken to yet and whose scripts say more.
 *
 * @returns seconds, and whether any of it is a guess from a script
 */
export function expectedLength(
  lecture: Pick<Lecture, 'slides' | 'language'>,
  times: Schedule,
): { seconds: number; isGuess: boolean } {
  const guesses = profileOf(lecture, times).flatMap(({ spoken, expectedSeconds, seconds }) =>
    !spoken && expectedSeconds !== null && expectedSeconds > seconds ? [expectedSeconds - seconds] : [],
  )
  return {
    seconds: toSeconds(times.lengthSamples) + guesses.reduce((sum, more) => sum + more, 0),
    isGuess: guesses.length > 0,
  }
}

export interface Outlier {
  slideId: string
  by: 'length' | 'pace'
  sentence: string
}

/** @returns sentences about slides that stand out, the most striking first; at most three */
export function outliers(profile: readonly SlideProfile[]): Outlier[] {
  const lengths = profile.map((s) => s.seconds).sort((a, b) => a - b)
  const middle = lengths[Math.floor(lengths.length / 2)] ?? 0
  const far = profile
    .filter((s) => profile.length > 2 && s.seconds > middle * FAR_LONGER && s.seconds > middle + FAR_LONGER_S)
    .map((s) => ({
      slideId: s.slideId,
      by: 'length' as const,
      weight: s.seconds / middle,
      sentence: say('Slide {number} is {times} times as long as most', {
        number: s.number,
        times: figure(s.seconds / middle, 1),
      }),
    }))
  const { slowest, fastest } = COMFORTABLE_PACE
  const paced = profile.flatMap((s) => {
    if (s.pace === null || (s.pace >= slowest && s.pace <= fastest)) return []
    const fast = s.pace > fastest
    return {
      slideId: s.slideId,
      by: 'pace' as const,
      weight: fast ? s.pace / fastest : slowest / s.pace,
      sentence: say(
        fast ? 'Slide {number} is spoken fast: {pace} words a minute' : 'Slide {number} is spoken slowly: {pace} words a minute',
        {
          number: s.number,
          pace: Math.round(s.pace),
        },
      ),
    }
  })
  return [...far, ...paced]
    .sort((a, b) => b.weight - a.weight)
    .slice(0, 3)
    .map(({ weight: _, ...outlier }) => outlier)
}

/** @returns words that fit into a slide of a fixed pace */
export function wordsThatFit(paceSeconds: number, wordsAMinute: number): number {
  return Math.floor((paceSeconds / 60) * wordsAMinute)
}
