/** A PresentationML deck: its slides in order, what is said to each, and how long it stays. @see ECMA-376, part 1, §19.2 */

import { mostSaid } from '#core/script/detect-language.ts'
import { type Message, message } from '#core/words/say.ts'
import { type Deck, type DeckSlide, MOST_SLIDES } from '../deck.ts'
import { DeckProblem } from '../problem.ts'
import { WARN } from '../warnings.ts'
import { at, below, child, children, numberOf, type XmlNode } from '../xml.ts'
import { FILM } from './films.ts'
import { nameIn, type OfficePackage, officePackage } from './package.ts'
import { readSlide } from './slide.ts'
import { plainText } from './text.ts'
import { transitionOf } from './transition.ts'

const FIRST_PART = '_rels/.rels'

/** Whether an unzipped file is such a deck. */
export const isPresentation = (files: ReadonlyMap<string, Uint8Array>) =>
  files.has('[Content_Types].xml') && files.has(FIRST_PART)

/** The text a speaker wrote beside a slide. */
function notesOf(pack: OfficePackage, slide: string): string {
  const part = pack.relations(slide).find((r) => r.type === 'notesSlide')?.target
  if (!part || !pack.has(part)) return ''
  const shapes = below(at(pack.xml(part), 'cSld', 'spTree'), 'sp')
  return shapes
    .filter((shape) => at(shape, 'nvSpPr', 'nvPr', 'ph')?.attrs.type === 'body')
    .map((shape) => plainText(child(shape, 'txBody')))
    .filter(Boolean)
    .join('\n')
}

/**
 * Headings of sections, by the number of the slide that each begins with. One that holds all slides divides nothing.
 *
 * @see [MS-PPTX] §2.3.3.22, sectionLst: an extension of presentation.xml that ECMA-376, part 1, §19.2.1.12 leaves room for
 */
function sectionsOf(presentation: XmlNode, ids: readonly (string | undefined)[]): Map<number, string> {
  const sections = below(child(presentation, 'extLst'), 'section')
  if (sections.length < 2) return new Map()
  const first = sections.map((section) => ids.indexOf(below(section, 'sldId')[0]?.attrs.id ?? ''))
  return new Map(sections.flatMap((section, i) => (first[i]! < 0 ? [] : [[first[i]!, section.attrs.name ?? '']])))
}

/** Counts the letters that are marked with each language. @see ECMA-376, part 1, §21.1.2.3.9, lang */
function countLanguages(slide: XmlNode, letters: Map<string, number>) {
  for (const run of below(slide, 'r')) {
    const tag = child(run, 'rPr')?.attrs.lang
    const text = child(run, 't')?.text.trim() ?? ''
    if (tag && text !== '') letters.set(tag, (letters.get(tag) ?? 0) + text.length)
  }
}

/** The sound that a slide brings. @returns its part, or what to say when it is not in the deck */
function soundOf(pack: OfficePackage, slide: string, node: XmlNode): { part: string } | { missing: Message } | null {
  const relations = pack.relations(slide)
  const holders = [...below(node, 'media'), ...below(node, 'audioFile'), ...below(node, 'wavAudioFile'), ...below(node, 'snd')]
  const ids = holders.flatMap((h) => [h.attrs['r:embed'], h.attrs['r:link']].filter((id): id is string => id !== undefined))
  const found = ids
    .flatMap((id) => relations.find((r) => r.id === id && /^(audio|media)$/.test(r.type)) ?? [])
    .filter(({ target }) => !FILM.test(target))
  const inside = found.find((r) => !r.external && pack.has(r.target))
  if (inside) return { part: inside.target }
  const outside = found.find((r) => r.external || !pack.has(r.target))
  if (!outside) return null
  const name = nameIn(outside.target)
  return {
    missing: WARN.soundElsewhere(name),
  }
}

/**
 * @param files of the unzipped deck; of pictures and sounds only the names are looked at
 * @param name as the person knows it
 * @throws DeckProblem when it cannot be read, has no slide or too many
 */
export function readPresentation(files: ReadonlyMap<string, Uint8Array>, name: string): Deck {
  const pack = officePackage(files)
  const main = pack.relations('').find((r) => r.type === 'officeDocument')?.target
  if (!main || !pack.has(main))
    throw new DeckProblem(message('“{name}” is no presentation, whatever its name says. Choose another file.', { name }))
  const presentation = pack.xml(main)
  if (presentation.name !== 'presentation')
    throw new DeckProblem(message('“{name}” is a document of another kind and no presentation. Choose another file.', { name }))
  const relations = pack.relations(main)
  const size = child(presentation, 'sldSz')
  const slideSize = { cx: numberOf(size?.attrs.cx) || 12_192_000, cy: numberOf(size?.attrs.cy) || 6_858_000 }
  const listed = children(child(presentation, 'sldIdLst'), 'sldId').flatMap((id) => {
    const target = relations.find((r) => r.id === id.attrs['r:id'])?.target
    return target && pack.has(target) ? [{ id: id.attrs.id, target }] : []
  })
  const parts = listed.map(({ target }) => target)
  const sections = sectionsOf(
    presentation,
    listed.map(({ id }) => id),
  )
  if (parts.length === 0)
    throw new DeckProblem(message('“{name}” has no slides. Save the deck again and check that it shows its slides.', { name }))
  if (parts.length > MOST_SLIDES)
    throw new DeckProblem(
      message('“{name}” has {slides} slides; the most is {most}. Divide it and add the parts as lectures of their own.', {
        name,
        slides: parts.length,
        most: MOST_SLIDES,
      }),
    )
  const marked = new Map<string, number>()
  const tables = relations.find((r) => r.type === 'tableStyles')?.target
  const context = {
    pack,
    size: slideSize,
    deckStyle: child(presentation, 'defaultTextStyle'),
    tableStyles: tables && pack.has(tables) ? pack.xml(tables) : null,
  }
  const slides = parts.map((part, i): DeckSlide => {
    const node = pack.xml(part)
    countLanguages(node, marked)
    const read = readSlide(context, part, i + 1)
    const sound = soundOf(pack, part, node)
    return {
      ...read,
      notes: notesOf(pack, part),
      section: (sections.get(i) ?? '').trim().slice(0, 200),
      hidden: node.attrs.show === '0' || node.attrs.show === 'false',
      ...transitionOf(node),
      sound: sound && 'part' in sound ? sound.part : null,
      warnings: [...(sound && 'missing' in sound ? [sound.missing] : []), ...read.warnings],
    }
  })
  const core = pack.relations('').find((r) => r.type === 'core-properties')?.target
  const title = core && pack.has(core) ? (child(pack.xml(core), 'title')?.text.trim() ?? '') : ''
  return { title, language: mostSaid(marked), slides }
}
