/** Words and minutes. */

import { pointsOf } from './points.ts'
import { countWords } from './sentences.ts'

/** Common practice: a lecture is spoken at 130 to 160 words a minute (value from memory). */
export const WORDS_A_MINUTE = 145

/** @returns seconds a script of so many words will take to say */
export function expectedSeconds(words: number): number {
  return (words / WORDS_A_MINUTE) * 60
}

/** Common practice, no published source: a point is spoken about for twenty seconds. */
const SECONDS_A_POINT = 20

/** What a script asks for: words that are read out, or points to speak from, and how long either will probably take. */
export function spokenLength(script: string, language: string): { words: number; points: number; seconds: number } {
  const points = pointsOf(script)?.length ?? 0
  const words = points > 0 ? 0 : countWords(script, language)
  return { words, points, seconds: points > 0 ? points * SECONDS_A_POINT : expectedSeconds(words) }
}

/** @returns words a minute; null when nothing is said */
export function pace(words: number, clipSeconds: number): number | null {
  return words > 0 && clipSeconds > 0 ? words / (clipSeconds / 60) : null
}
