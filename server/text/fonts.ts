/** Which file of the shipped fonts draws a character, and how a canvas is told to use it. */
import { createRequire } from 'node:module'
import { dirname, join } from 'node:path'
import { GlobalFonts } from '@napi-rs/canvas'
import type { Face } from '#core/deck/faces.ts'
import coverage from './coverage.json' with { type: 'json' }
import { decodeRanges } from './coverage.ts'
import { ALPHABETS, FACES, type Family, HAN, type HanStyle, MONO, READING, SIGNS } from './families.ts'

/** How letters look, whatever they are. */
export interface Style {
  /** Pixels. */
  size: number
  weight: number
  italic: boolean
  face: Face
}

/** One file of a family, as a canvas knows it. */
export interface FontFile {
  family: Family
  file: string
  name: string
}

const FILES: Record<string, Record<string, string>> = coverage
/** Which file of a family has a character, by its code; read when the family is first asked. */
const known = new Map<Family, Map<number, FontFile>>()
const registered = new Set<string>()

function filesOf(family: Family): Map<number, FontFile> {
  const before = known.get(family)
  if (before) return before
  const files = new Map<number, FontFile>()
  for (const [i, [file, ranges]] of Object.entries(FILES[family.name]!).entries()) {
    const font = { family, file, name: `${family.name} ${i}` }
    decodeRanges(ranges, (first, last) => {
      for (let code = first; code <= last; code++) if (!files.has(code)) files.set(code, font)
    })
  }
  known.set(family, files)
  return files
}

const HAN_STYLES = Object.keys(HAN) as HanStyle[]

/**
 * In which style signs of Han are written in a text: kana, Hangul and Bopomofo say so by themselves.
 *
 * @param language of the text (BCP 47), where it is known
 */
export function hanStyleOf(text: string, language = ''): HanStyle {
  if (/[\p{Script=Hiragana}\p{Script=Katakana}]/u.test(text)) return 'ja'
  if (/\p{Script=Hangul}/u.test(text)) return 'ko'
  if (/\p{Script=Bopomofo}/u.test(text) || /^zh-(.*-)?(Hant|TW|HK|MO)\b/i.test(language)) return 'zh-Hant'
  return HAN_STYLES.find((style) => language.toLowerCase().startsWith(style.toLowerCase().slice(0, 2))) ?? 'zh-Hans'
}

function familiesFor(face: Face, han: HanStyle): Family[] {
  const hans = [HAN[han], ...HAN_STYLES.filter((style) => style !== han).map((style) => HAN[style])]
  return [FACES[face], ...ALPHABETS, ...hans, ...SIGNS, READING, MONO]
}

/** Signs that are never seen: joiners, marks of direction, variants, what controls. */
const UNSEEN = /^[\p{Default_Ignorable_Code_Point}\p{Cc}\p{White_Space}]$/u

/** @param cluster a letter with its marks @returns a file that has all of it, or at least its letter; null where none does */
export function fontFor(cluster: string, face: Face, han: HanStyle): FontFile | null {
  const codes = [...cluster].filter((character) => !UNSEEN.test(character)).map((character) => character.codePointAt(0)!)
  const families = familiesFor(face, han)
  for (const family of families) {
    const files = filesOf(family)
    const file = files.get(codes[0] ?? 0x20)
    if (file && codes.every((code) => files.get(code) === file)) return file
  }
  for (const family of families) {
    const file = filesOf(family).get(codes[0] ?? 0x20)
    if (file) return file
  }
  return null
}

/** @returns the file of the same family that has a space; the font itself where none has @param font of the letters beside it */
export const spaceFontFor = (font: FontFile): FontFile => filesOf(font.family).get(0x20) ?? font

/** Characters of a text that no shipped font can draw, each once. */
export function undrawableIn(text: string): string[] {
  return [...new Set(text)].filter((character) => !UNSEEN.test(character) && fontFor(character, 'plain', 'ja') === null)
}

/** The `font` of a canvas. @param font null draws the sign that stands for what cannot be drawn */
export function canvasFont(font: FontFile | null, { size, weight, italic }: Style): string {
  const used = font ?? filesOf(READING).get(0x20)!
  const { family, file, name } = used
  if (!registered.has(name)) {
    const folder = join(dirname(createRequire(import.meta.url).resolve(`${family.package}/package.json`)), 'files')
    const files = [file, ...(family.hasBold ? [file.replace('-400-', '-700-')] : [])]
    for (const one of files) {
      GlobalFonts.registerFromPath(join(folder, one), name)
      if (family.hasItalic) GlobalFonts.registerFromPath(join(folder, one.replace('normal', 'italic')), name)
    }
    registered.add(name)
  }
  return `${italic && family.hasItalic ? 'italic ' : ''}${weight} ${Math.max(1, size)}px "${name}"`
}
