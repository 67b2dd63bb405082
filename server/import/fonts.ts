/** The shipped fonts, for what the server draws. */
import { createRequire } from 'node:module'
import { dirname, join } from 'node:path'
import { GlobalFonts } from '@napi-rs/canvas'

const FALLBACK = '"DejaVu Sans", sans-serif'
const registered = new Map<string, string>()

/** Registers a family, all alphabets and styles it has. @returns a list of families for a canvas */
function family(name: string, folder: string, parts: readonly string[], styles: readonly string[]): string {
  const known = registered.get(name)
  if (known) return known
  const files = join(dirname(createRequire(import.meta.url).resolve(`@fontsource-variable/${folder}/package.json`)), 'files')
  for (const part of parts)
    for (const style of styles) GlobalFonts.registerFromPath(join(files, `${folder}-${part}-wght-${style}.woff2`), name)
  registered.set(name, `"${name}"`)
  return `"${name}"`
}

const READING = ['latin', 'latin-ext', 'cyrillic', 'cyrillic-ext', 'greek', 'greek-ext', 'vietnamese']

/** The reading type: headings, text with serifs. */
export const readingFont = () => `${family('Literata', 'literata', READING, ['normal'])}, ${FALLBACK}`

/** The type of the interface: text without serifs. Letters it has not come from the reading type. */
export const uiFont = () => {
  const own = family('Atkinson Hyperlegible Next', 'atkinson-hyperlegible-next', ['latin', 'latin-ext'], ['normal', 'italic'])
  return `${own}, ${readingFont()}`
}

/** Letters of one width. */
export const monoFont = () => '"DejaVu Sans Mono", monospace'
