/** Presentation files and decks written as text, by what is in them. */

import { readFile, stat } from 'node:fs/promises'
import type { Readable } from 'node:stream'
import type { Deck } from '#core/deck/deck.ts'
import { readMarkdown } from '#core/deck/markdown.ts'
import { isOpenDocument, readOpenDocument } from '#core/deck/odf/presentation.ts'
import { isPresentation, readPresentation } from '#core/deck/ooxml/presentation.ts'
import { message } from '#core/words/say.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { isPicture, sniff, sniffFile } from './kinds/sniff.ts'
import { type OpenZip, openZip } from './zip.ts'

/** What a zip file is. */
export type ZipKind = 'deck' | 'pictures' | 'bundle' | 'unknown'

/** A media type is short. */
const LONGEST_TYPE = 1000
/** What a deck says, beside its pictures and sounds; it is read as a whole. */
const MOST_TEXT = 200 * 1024 ** 2
/** A deck written as text. */
const MOST_WRITTEN = 5 * 1024 ** 2
/** Pictures and sounds are read one by one. */
const MOST_MEDIA = 150 * 1024 ** 2

async function typeOf(zip: OpenZip): Promise<Map<string, Uint8Array>> {
  const size = zip.sizes.get('mimetype')
  return size !== undefined && size < LONGEST_TYPE ? new Map([['mimetype', await zip.read('mimetype')]]) : new Map()
}

/** @throws UserFacingError when it cannot be read */
export async function kindOfZip(path: string, name: string): Promise<ZipKind> {
  const zip = await openZip(path, name, Number.POSITIVE_INFINITY)
  try {
    if (zip.sizes.has('bundle.json')) return 'bundle'
    if (zip.sizes.has('[Content_Types].xml') || isOpenDocument(await typeOf(zip))) return 'deck'
    return [...zip.sizes.keys()].some((entry) => /\.(png|jpe?g|webp|gif|avif|tiff?|svg)$/i.test(entry)) ? 'pictures' : 'unknown'
  } finally {
    zip.close()
  }
}

/** A deck, and what lies in it beside its text. */
export interface ReadDeck extends Deck {
  /** A picture or sound of it; null when it has none of this name. */
  part(name: string): Promise<Uint8Array | null>
  /** A film of it, piece by piece; null when it has none of this name. */
  film(name: string): Promise<Readable | null>
  close(): void
}

/** Media are known by their names and sizes and not read: what a slide says is needed at once, what it shows one by one. */
const isMedia = (entry: string) => !/\.(xml|rels|vml|json|txt)$/i.test(entry) && entry !== 'mimetype'
const NOT_READ = new Uint8Array(0)

async function textOf(zip: OpenZip, name: string): Promise<Map<string, Uint8Array>> {
  const files = new Map<string, Uint8Array>()
  let all = 0
  for (const [entry, size] of zip.sizes) {
    if (isMedia(entry)) files.set(entry, NOT_READ)
    else {
      all += size
      if (all > MOST_TEXT)
        throw new UserFacingError(message('“{name}” holds more text than can be read at once. Divide it.', { name }), 413)
      files.set(entry, await zip.read(entry))
    }
  }
  return files
}

/**
 * @param pictures that came beside it, by their names: a text shows those it names
 * @throws UserFacingError, DeckProblem when it is no deck
 */
export async function readDeckFile(
  path: string,
  name: string,
  pictures: ReadonlyMap<string, () => Promise<Uint8Array>> = new Map(),
): Promise<ReadDeck> {
  if ((await sniffFile(path)) === 'text') {
    if ((await stat(path)).size > MOST_WRITTEN)
      throw new UserFacingError(
        message('“{name}” is larger than 5 MB, which no text of a lecture is. Choose another file.', { name }),
        413,
      )
    const text = new TextDecoder().decode(await readFile(path))
    return {
      title: '',
      language: null,
      slides: readMarkdown(text, name, new Set(pictures.keys())),
      part: async (part) => (await pictures.get(part)?.()) ?? null,
      film: async () => null,
      close: () => {},
    }
  }
  const zip = await openZip(path, name)
  try {
    const files = await textOf(zip, name)
    const part = async (entry: string) => (zip.sizes.has(entry) ? zip.read(entry, MOST_MEDIA) : null)
    const film = async (entry: string) => (zip.sizes.has(entry) ? zip.stream(entry) : null)
    if (isOpenDocument(files)) return { ...readOpenDocument(files, name), part, film, close: zip.close }
    if (isPresentation(files)) return { ...readPresentation(files, name), part, film, close: zip.close }
    throw new UserFacingError(message('“{name}” is no presentation, whatever its name says. Choose another file.', { name }), 422)
  } catch (error) {
    zip.close()
    throw error
  }
}

/** The pictures of a zip file, one by one in the natural order of their names; null for what is none or too large. */
export async function* picturesOfZip(path: string, name: string): AsyncGenerator<{ name: string; bytes: Uint8Array | null }> {
  const order = new Intl.Collator('en', { numeric: true, sensitivity: 'base' })
  const zip = await openZip(path, name)
  try {
    // what file managers put in for themselves
    const names = [...zip.sizes.keys()].filter((entry) => !/(^|\/)(__MACOSX|\.)/.test(entry)).sort(order.compare)
    for (const entry of names) {
      const bytes = zip.sizes.get(entry)! > MOST_MEDIA ? null : await zip.read(entry, MOST_MEDIA)
      yield { name: entry, bytes: bytes && isPicture(sniff(bytes)) ? bytes : null }
    }
  } finally {
    zip.close()
  }
}
