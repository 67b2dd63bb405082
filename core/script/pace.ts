/** Words and minutes. */

/** Common practice: a lecture is spoken at 130 to 160 words a minute (value from memory). */
export const WORDS_A_MINUTE = 145

/** @returns seconds a script of so many words will take to say */
export function expectedSeconds(words: number): number {
  return (words / WORDS_A_MINUTE) * 60
}

/** @returns words a minute; null when nothing is said */
export function pace(words: number, clipSeconds: number): number | null {
  return words > 0 && clipSeconds > 0 ? words / (clipSeconds / 60) : null
}
