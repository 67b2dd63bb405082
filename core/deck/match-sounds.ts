/** Which slide a dropped sound file is for, told by its name. */

export interface SoundMatch {
  /** Index in the names given. */
  file: number
  /** Index of the slide, from 0; null when there is no slide for it. */
  slide: number | null
  why: 'number' | 'title' | 'order' | 'none'
}

const order = new Intl.Collator('en', { numeric: true, sensitivity: 'base' })
const bare = (name: string) => name.replace(/\.[^.]+$/, '')
const words = (text: string) =>
  text
    .toLowerCase()
    .normalize('NFKD')
    .replace(/[^\p{L}\p{N}]+/gu, ' ')
    .trim()

/** The number a name carries: after the word for a slide, else at its beginning, else at its end; null without one. */
export function numberInName(name: string): number | null {
  const text = bare(name).replace(/_/g, ' ')
  const found =
    /(?:slide|folie|diapositive|diapo|diapositiva|page|seite|p|s)\s*[-#.]?\s*(\d{1,4})(?!\d)/i.exec(text) ??
    /^\s*(\d{1,4})(?!\d)/.exec(text) ??
    /(?<![\d.])(\d{1,3})\s*\)?\s*$/.exec(text)
  return found ? Number(found[1]) : null
}

/**
 * Matches sound files to slides: by the number in the name ("slide 2", "02 intro"), then by a slide's title in it, then the rest in
 * the natural order of their names to slides still without one.
 *
 * @param names of files, with their endings
 * @param titles of slides, in order
 * @returns one entry a file, in the order given; no slide is given twice
 */
export function matchSounds(names: readonly string[], titles: readonly string[]): SoundMatch[] {
  const slideOf = new Map<number, { slide: number; why: SoundMatch['why'] }>()
  const taken = new Set<number>()
  const give = (file: number, slide: number, why: SoundMatch['why']) => {
    if (slide < 0 || slide >= titles.length || taken.has(slide) || slideOf.has(file)) return
    taken.add(slide)
    slideOf.set(file, { slide, why })
  }
  const files = names.map((_, i) => i).sort((a, b) => order.compare(names[a]!, names[b]!))
  const numbers = names.map(numberInName)
  // files counted from 0 mean the first slide by it
  const first = numbers.includes(0) ? 0 : 1
  for (const file of files) if (numbers[file] !== null) give(file, numbers[file]! - first, 'number')
  for (const file of files) {
    const name = words(bare(names[file]!))
    const slide = titles.findIndex(
      (title, i) => !taken.has(i) && words(title).length > 2 && ` ${name} `.includes(` ${words(title)} `),
    )
    if (numbers[file] === null) give(file, slide, 'title')
  }
  let next = 0
  for (const file of files) {
    if (slideOf.has(file) || numbers[file] !== null) continue
    while (taken.has(next)) next++
    give(file, next, 'order')
  }
  return names.map((_, file) => {
    const found = slideOf.get(file)
    return found ? { file, ...found } : { file, slide: null, why: 'none' }
  })
}
