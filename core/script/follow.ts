/** Which sentence of a script is being said, told from nothing but when somebody speaks. A guess that rights itself in every pause. */

import { expectedSeconds } from './pace.ts'
import { countWords } from './sentences.ts'

/** A rest this long may be the end of a sentence. */
const REST_S = 0.28
/** No sentence is over before so much of its expected time was spoken, and each is after so much. */
const EARLIEST = 0.62
const LATEST = 1.6
/** How much one sentence says about how fast this speaker is. */
const LEARNS = 0.35
const RATE = { least: 0.5, most: 2 }
/** Of what is said, rests inside a sentence left out; common practice, from memory. */
const VOICED = 0.85

export interface Following {
  /** Index of the sentence that is said, or comes next. */
  sentence: number
  /** Seconds of speech in it so far. */
  spoken: number
  /** Seconds of the rest that goes on; 0 while somebody speaks. */
  rest: number
  /** How slow this speaker is: spoken seconds to expected ones. */
  rate: number
}

export const FOLLOWING: Following = { sentence: 0, spoken: 0, rest: 0, rate: 1 }

/** Seconds of speech that each sentence will take. */
export const sentenceLengths = (sentences: readonly string[], language: string) =>
  sentences.map((sentence) => Math.max(0.4, expectedSeconds(countWords(sentence, language)) * VOICED))

/**
 * One step on.
 *
 * @param lengths expected seconds of speech of each sentence, by `sentenceLengths`
 * @param speaking whether the voice was heard in the time that has passed
 * @param seconds that have passed; a few hundredths
 */
export function follow(state: Following, lengths: readonly number[], speaking: boolean, seconds: number): Following {
  const expected = (lengths[state.sentence] ?? Number.POSITIVE_INFINITY) * state.rate
  if (speaking) {
    const spoken = state.spoken + seconds
    // spoken past any doubt without a rest: what is over belongs to the next
    if (spoken > LATEST * expected) return { ...state, sentence: state.sentence + 1, spoken: spoken - expected, rest: 0 }
    return { ...state, spoken, rest: 0 }
  }
  const rest = state.rest + seconds
  const ends = state.rest < REST_S && rest >= REST_S && state.spoken >= EARLIEST * expected
  if (!ends || state.sentence >= lengths.length) return { ...state, rest }
  const measured = Math.min(RATE.most, Math.max(RATE.least, state.spoken / lengths[state.sentence]!))
  return { sentence: state.sentence + 1, spoken: 0, rest, rate: state.rate + LEARNS * (measured - state.rate) }
}

/** @returns how many of a sentence's words were said by now, by the speaker's own pace */
export const wordsSaid = ({ sentence, spoken, rate }: Following, lengths: readonly number[], words: number): number =>
  Math.min(words, Math.floor((words * spoken) / Math.max(0.1, (lengths[sentence] ?? Number.POSITIVE_INFINITY) * rate)))
