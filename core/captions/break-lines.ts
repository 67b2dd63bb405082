/** Divides a sentence into captions and a caption into lines, where a reader would. */

/** DCMP Captioning Key and BBC Subtitle Guidelines: 32 to 42 characters a line, two lines at most. */
export const LINE_CHARACTERS = 37
const CAPTION_CHARACTERS = LINE_CHARACTERS * 2 - 4 // two lines never divide perfectly evenly

/** Words that belong to what follows them: a line does not end with one. */
const LEANING = new Set(
  'a an the of in on at to for from with by and or but nor so if as than that this these those is are was were be been has have had do does did not no my your his her its our their very'.split(
    ' ',
  ),
)

/** How bad it is to break after a word, 0 and above. */
function breakCost(word: string): number {
  if (/[.!?…]["'”’)]*$/.test(word)) return 0
  if (/[,;:–—]["'”’)]*$/.test(word)) return 1
  return LEANING.has(word.toLowerCase()) ? 30 : 6
}

/**
 * Divides words into so many runs, as even as the good places to break allow.
 *
 * @param limit characters that no run may exceed (except a single longer word)
 * @returns null when they do not fit
 */
function divide(words: readonly string[], parts: number, limit: number): string[] | null {
  const lengths = words.map((word) => word.length)
  const ideal = words.join(' ').length / parts
  const starts = [0]
  for (const length of lengths) starts.push(starts.at(-1)! + length + 1)
  const span = (from: number, to: number) => starts[to]! - starts[from]! - 1
  let best = new Map<number, { cost: number; cuts: number[] }>([[0, { cost: 0, cuts: [] }]])
  for (let part = 1; part <= parts; part++) {
    const next: typeof best = new Map()
    for (const [from, { cost, cuts }] of best) {
      for (let to = from + 1; to <= words.length; to++) {
        const length = span(from, to)
        if (length > limit && to > from + 1) break
        const uneven = ((length - ideal) / ideal) ** 2 * 20
        const total = cost + uneven + (to < words.length ? breakCost(words[to - 1]!) : 0)
        if (total < (next.get(to)?.cost ?? Number.POSITIVE_INFINITY)) next.set(to, { cost: total, cuts: [...cuts, to] })
      }
    }
    best = next
  }
  const found = best.get(words.length)
  if (!found) return null
  return found.cuts.map((to, i) => words.slice(found.cuts[i - 1] ?? 0, to).join(' '))
}

/** Fewest parts that fit; words alone when even that fails. */
function divideToFit(words: readonly string[], limit: number): string[] {
  const fewest = Math.max(1, Math.ceil(words.join(' ').length / limit))
  for (let parts = fewest; parts < words.length; parts++) {
    const found = divide(words, parts, limit)
    if (found) return found
  }
  return [...words]
}

/**
 * @param sentence one sentence, words separated by spaces
 * @returns texts of captions of at most two lines each, in order, without line breaks
 */
export function captionTexts(sentence: string): string[] {
  return divideToFit(sentence.split(/\s+/).filter(Boolean), CAPTION_CHARACTERS)
}

/** @returns the caption's text with at most one line break, the lines as even as good breaks allow */
export function breakLines(text: string): string {
  if (text.length <= LINE_CHARACTERS) return text
  const words = text.split(' ')
  return (divide(words, 2, LINE_CHARACTERS) ?? divide(words, 2, LINE_CHARACTERS + 5) ?? [text]).join('\n')
}
