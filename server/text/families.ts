/** The families of letters that ship with the app: which package and file each is, and what it is for. */

export interface Family {
  /** As the canvas knows it, followed by the number of a file. */
  name: string
  package: string
  /** The weights of its files: all of them in one, or one alone. */
  weight: 'wght' | '400'
  hasItalic: boolean
}

const noto = (what: string, base: 'fontsource-variable' | 'fontsource' = 'fontsource-variable'): Family => ({
  name: `noto-${what}`,
  package: `@${base}/noto-${what}`,
  weight: base === 'fontsource' ? '400' : 'wght',
  hasItalic: false,
})

export const READING: Family = {
  name: 'literata',
  package: '@fontsource-variable/literata',
  weight: 'wght',
  hasItalic: false,
}
export const INTERFACE: Family = {
  name: 'atkinson-hyperlegible-next',
  package: '@fontsource-variable/atkinson-hyperlegible-next',
  weight: 'wght',
  hasItalic: true,
}
export const MONO = noto('sans-mono')

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

export const FAMILIES = [READING, INTERFACE, MONO, ...ALPHABETS, ...SIGNS, ...Object.values(HAN)]
