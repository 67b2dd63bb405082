/** Presentation files and decks written as text, by what is in them. */
import type { Deck } from '#core/deck/deck.ts'
import { readMarkdown } from '#core/deck/markdown.ts'
import { isOpenDocument, readOpenDocument } from '#core/deck/odf/presentation.ts'
import { isPresentation, readPresentation } from '#core/deck/ooxml/presentation.ts'
import { DeckProblem } from '#core/deck/problem.ts'
import { readZip } from '#core/deck/zip.ts'
import { isPicture, sniff } from './sniff.ts'

/** What a zip file is. */
export type ZipKind = 'deck' | 'pictures' | 'bundle' | 'unknown'

/** @throws DeckProblem when it cannot be read */
export function kindOfZip(bytes: Uint8Array, name: string): ZipKind {
  const names: string[] = []
  const small = readZip(bytes, name, ({ name: entry, bytes: size }) => {
    names.push(entry)
    return size < 100_000 && (entry === 'mimetype' || entry === 'bundle.json')
  })
  if (small.has('bundle.json')) return 'bundle'
  if (names.includes('[Content_Types].xml') || isOpenDocument(small)) return 'deck'
  return names.some((entry) => /\.(png|jpe?g|webp|gif|avif|svg)$/i.test(entry)) ? 'pictures' : 'unknown'
}

/**
 * @param pictures that came beside it, by name: a text shows those it names
 * @throws DeckProblem when it is no deck
 */
export function readDeckFile(bytes: Uint8Array, name: string, pictures: ReadonlyMap<string, Uint8Array> = new Map()): Deck {
  if (sniff(bytes) === 'text')
    return { title: '', slides: readMarkdown(new TextDecoder().decode(bytes), name, new Set(pictures.keys())), parts: pictures }
  const files = readZip(bytes, name)
  if (isOpenDocument(files)) return readOpenDocument(files, name)
  if (isPresentation(files)) return readPresentation(files, name)
  throw new DeckProblem(`“${name}” is no presentation, whatever its name says. Choose another file.`)
}

/** The pictures of a zip file, in the natural order of their names. */
export function picturesOfZip(bytes: Uint8Array, name: string): { name: string; bytes: Uint8Array }[] {
  const order = new Intl.Collator('en', { numeric: true, sensitivity: 'base' })
  return [...readZip(bytes, name)]
    .filter(([entry, content]) => !/(^|\/)(__MACOSX|\.)/.test(entry) && isPicture(sniff(content)))
    .map(([entry, content]) => ({ name: entry, bytes: content }))
    .sort((a, b) => order.compare(a.name, b.name))
}
