/** The families of letters that ship with the app: which package and file each is, and what it is for. */

import type { Face } from '#core/deck/faces.ts'

export interface Family {
  /** As the canvas knows it, followed by the number of a file. */
  name: string
  package: string
  /** The weights of its files: all of them in one, or one alone. */
  weight: 'wght' | '400'
  hasItalic: boolean
  /** Its bold letters are files of their own. */
  hasBold?: boolean
  /** Of a line of it as shares of its size: how far its letters reach up and down from their base, and how high the line is. */
  line: { ascent: number; descent: number; height: number }
}

/** What our own families and alphabets are set with. */
const USUAL_LINE = { ascent: 0.935, descent: 0.235, height: 1.17 }

const noto = (what: string, base: 'fontsource-variable' | 'fontsource' = 'fontsource-variable'): Family => ({
  name: `noto-${what}`,
  package: `@${base}/noto-${what}`,
  weight: base === 'fontsource' ? '400' : 'wght',
  hasItalic: false,
  line: USUAL_LINE,
})

export const READING: Family = {
  name: 'literata',
  package: '@fontsource-variable/literata',
  weight: 'wght',
  hasItalic: false,
  line: USUAL_LINE,
}
export const INTERFACE: Family = {
  name: 'atkinson-hyperlegible-next',
  package: '@fontsource-variable/atkinson-hyperlegible-next',
  weight: 'wght',
  hasItalic: true,
  line: USUAL_LINE,
}
export const MONO = noto('sans-mono')

/** @param line of the family that it stands for */
const twin = (name: string, ascent: number, descent: number, height: number): Family => ({
  name,
  package: `@fontsource/${name}`,
  weight: '400',
  hasItalic: true,
  hasBold: true,
  line: { ascent, descent, height },
})

/**
 * Families that decks are written in have these twins, of the same widths and lines. Lines are those of the twins' own tables (hhea, OS/2);
 * that of Caladea is from memory of what it stands for.
 */
export const FACES: Record<Face, Family> = {
  plain: INTERFACE,
  reading: READING,
  mono: MONO,
  carlito: twin('carlito', 0.952, 0.2686, 1.2207),
  caladea: twin('caladea', 0.95, 0.222, 1.1719),
  arimo: twin('arimo', 0.9053, 0.2119, 1.1499),
  tinos: twin('tinos', 0.8911, 0.2163, 1.1499),
  cousine: twin('cousine', 0.8325, 0.3003, 1.1328),
}

/** Letters of alphabets, in the order in which they are looked for. */
export const ALPHABETS = [
  noto('sans'),
  noto('sans-arabic'),
  noto('sans-hebrew'),
  noto('sans-devanagari'),
  noto('sans-bengali'),
  noto('sans-tamil'),
  noto('sans-thai'),
  noto('sans-armenian'),
  noto('sans-georgian'),
  noto('sans-gujarati'),
  noto('sans-gurmukhi'),
  noto('sans-kannada'),
  noto('sans-malayalam'),
  noto('sans-sinhala'),
  noto('sans-telugu'),
  noto('sans-khmer'),
  noto('sans-lao'),
  noto('sans-myanmar'),
  noto('sans-ethiopic'),
]
/** Signs: mathematics, arrows, emoji. */
export const SIGNS = [
  noto('sans-math', 'fontsource'),
  noto('sans-symbols', 'fontsource'),
  noto('sans-symbols-2', 'fontsource'),
  noto('emoji'),
]
/** One sign of Han is written differently in each of these. */
export const HAN = {
  ja: noto('sans-jp'),
  ko: noto('sans-kr'),
  'zh-Hans': noto('sans-sc'),
  'zh-Hant': noto('sans-tc'),
}
export type HanStyle = keyof typeof HAN

export const FAMILIES = [...Object.values(FACES), ...ALPHABETS, ...SIGNS, ...Object.values(HAN)]
