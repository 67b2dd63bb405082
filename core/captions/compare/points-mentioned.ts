/** Which points of a script came up in what was said: who speaks from points says them in other words, but hardly in none of theirs. */
import { leans } from '#core/captions/generate/function-words.ts'
import { segmenter } from '#core/script/segmenter.ts'

/** Endings of words change with the sentence: so many letters are compared. Common practice, no published source. */
const STEM_LETTERS = 4
/** A point came up when so much of its words did. */
const LEAST_SHARE = 0.5

/** Words that carry the meaning, as they are compared. */
function stemsOf(text: string, language: string): string[] {
  return [...segmenter(language, 'word').segment(text)]
    .filter(({ segment, isWordLike }) => isWordLike && !leans(segment, language))
    .map(({ segment }) => segment.normalize('NFKD').replace(/\p{M}/gu, '').toLocaleLowerCase(language).slice(0, STEM_LETTERS))
}

/**
 * @param points as `pointsOf` finds them
 * @param said what was said, as captions tell
 * @param language BCP 47
 * @returns the points of whose words hardly any came up, in order
 */
export function pointsNotMentioned(points: readonly string[], said: string, language: string): string[] {
  const heard = new Set(stemsOf(said, language))
  return points.filter((point) => {
    const stems = stemsOf(point, language)
    const found = stems.filter((stem) => heard.has(stem)).length
    return stems.length > 0 && found < LEAST_SHARE * stems.length
  })
}
