/** OpenDocument presentations: order, titles, notes, hidden slides, times, and what each page shows. @see OASIS OpenDocument 1.3, part 3, §9 and §10 */

import { strFromU8 } from 'fflate'
import { mostSaid } from '#core/script/detect-language.ts'
import { message } from '#core/words/say.ts'
import { type Deck, MOST_SLIDES } from '../deck.ts'
import { DeckProblem } from '../problem.ts'
import { at, below, children, parseXml } from '../xml.ts'
import { readPage } from './page.ts'
import { pageSizes, stylesOf } from './styles.ts'
import { languagesOf } from './text.ts'

const PRESENTATION = 'application/vnd.oasis.opendocument.presentation'

export const isOpenDocument = (files: ReadonlyMap<string, Uint8Array>) => {
  const type = files.get('mimetype')
  return type !== undefined && strFromU8(type).startsWith('application/vnd.oasis.opendocument')
}

/** @throws DeckProblem when it cannot be read, has no slide or too many */
export function readOpenDocument(files: ReadonlyMap<string, Uint8Array>, name: string): Deck {
  if (!strFromU8(files.get('mimetype')!).startsWith(PRESENTATION))
    throw new DeckProblem(message('“{name}” is a document of another kind and no presentation. Choose another file.', { name }))
  const content = files.get('content.xml')
  if (!content) throw new DeckProblem(message('“{name}” is damaged: its content is missing. Save the deck again.', { name }))
  const root = parseXml(content, 'content.xml')
  const styleFile = files.get('styles.xml')
  const styleRoot = styleFile ? parseXml(styleFile, 'styles.xml') : null
  const pages = children(at(root, 'body', 'presentation'), 'page')
  if (pages.length === 0)
    throw new DeckProblem(message('“{name}” has no slides. Save the deck again and check that it shows its slides.', { name }))
  if (pages.length > MOST_SLIDES)
    throw new DeckProblem(
      message('“{name}” has {pages} slides; the most is {most}. Divide it and add the parts as lectures of their own.', {
        name,
        pages: pages.length,
        most: MOST_SLIDES,
      }),
    )
  const context = {
    styles: stylesOf([...(styleRoot ? [styleRoot] : []), root]),
    files,
    masters: new Map(below(styleRoot ?? undefined, 'master-page').map((m) => [m.attrs['style:name'], m] as const)),
    sizeOf: pageSizes(styleRoot),
  }
  const slides = pages.map((page, i) => readPage(page, i + 1, context))
  const meta = files.get('meta.xml')
  const title = meta ? (below(parseXml(meta, 'meta.xml'), 'title')[0]?.text.trim() ?? '') : ''
  return { title, language: mostSaid(languagesOf(styleRoot ?? root)), slides }
}
