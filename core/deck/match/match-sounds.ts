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

/** Words for music in names of files, which is under a voice and none. Common practice, no published source. */
const MUSIC = /(?<!\p{L})(music|musik|musique|m[uú]sica|muziek|jingle|soundtrack|theme|background|ambien[ct]e)(?!\p{L})/iu

export const isMusicName = (name: string) => MUSIC.test(bare(name))

/** The number of each slide as the pictures it was made of say it; null where they do not all say one of their own. */
export function numbersOfPictures(names: readonly string[]): number[] | null {
  const numbers = names.map(numberInName)
  return numbers.every((number) => number !== null) && new Set(numbers).size === numbers.length ? (numbers as number[]) : null
}

export interface Matching {
  /** Of the slides, when they have others than 1, 2, 3: pictures 9 and 10 are slides 9 and 10 wherever they stand. */
  numbers?: readonly number[] | null
  /** Somebody sees what is proposed before it is done: what says nothing of its slide is put to the slides still without one, in order. */
  guess?: boolean
}

/**
 * Matches sound files to slides: by the number in the name ("slide 2", "02 intro"), then by a slide's title in it. Files of which none says
 * anything are taken in the natural order of their names, when there are as many of them as slides. What is left belongs to no slide that
 * could be told: it is for a person to say.
 *
 * @param names of files, with their endings
 * @param titles of slides, in order
 * @returns one entry a file, in the order given; no slide is given twice
 */
export function matchSounds(
  names: readonly string[],
  titles: readonly string[],
  { numbers = null, guess = false }: Matching = {},
): SoundMatch[] {
  const slideOf = new Map<number, { slide: number; why: SoundMatch['why'] }>()
  const taken = new Set<number>()
  const give = (file: number, slide: number, why: SoundMatch['why']) => {
    if (slide < 0 || slide >= titles.length || taken.has(slide) || slideOf.has(file)) return
    taken.add(slide)
    slideOf.set(file, { slide, why })
  }
  const files = names.map((_, i) => i).sort((a, b) => order.compare(names[a]!, names[b]!))
  const said = names.map(numberInName)
  // files counted from 0 mean the first slide by it
  const first = said.includes(0) ? 0 : 1
  const slideNumbered = (number: number) => (numbers ? numbers.indexOf(number) : number - first)
  for (const file of files) if (said[file] !== null) give(file, slideNumbered(said[file]!), 'number')
  for (const file of files) {
    const name = words(bare(names[file]!))
    const slide = titles.findIndex(
      (title, i) => !taken.has(i) && words(title).length > 2 && ` ${name} `.includes(` ${words(title)} `),
    )
    if (said[file] === null) give(file, slide, 'title')
  }
  const silent = files.filter((file) => said[file] === null && !slideOf.has(file) && !isMusicName(names[file]!))
  if (guess || (silent.length === names.length && names.length === titles.length)) {
    let next = 0
    for (const file of silent) {
      while (taken.has(next)) next++
      give(file, next, 'order')
    }
  }
  return names.map((_, file) => {
    const found = slideOf.get(file)
    return found ? { file, ...found } : { file, slide: null, why: 'none' }
  })
}
