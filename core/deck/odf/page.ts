/** One page of an OpenDocument presentation, with its master, as it stands at first and after each click. @see OpenDocument 1.3, part 3, §9 */
import type { DeckSlide, Fill } from '../deck.ts'
import { placedFilms } from '../steps/place-films.ts'
import { stepPictures } from '../steps/step-pictures.ts'
import { AS_DRAWN, type SlideState } from '../steps/steps.ts'
import { WARN, Warnings } from '../warnings.ts'
import { below, child, children, type XmlNode } from '../xml.ts'
import { type Drawer, drawNode, fillOf } from './draw.ts'
import { filmsOf } from './films.ts'
import { property, type Styles } from './styles.ts'
import { plain } from './text.ts'
import { readClicks } from './timing.ts'
import { transitionOf } from './transition.ts'

/** What all pages of a file share. */
export interface PageContext {
  styles: Styles
  files: ReadonlyMap<string, Uint8Array>
  masters: ReadonlyMap<string | undefined, XmlNode>
  /** Inches. */
  sizeOf: (master: XmlNode | undefined) => { width: number; height: number }
}

/** `PT00H00M05S` in milliseconds; null for none. @see XML Schema part 2, duration */
function durationMs(text: string | undefined): number | null {
  const match = /^PT(?:(\d+)H)?(?:(\d+)M)?(?:([\d.]+)S)?$/.exec(text ?? '')
  if (!match) return null
  return Math.round(((Number(match[1] ?? 0) * 60 + Number(match[2] ?? 0)) * 60 + Number(match[3] ?? 0)) * 1000)
}

/** What a page shows: its drawing at first, and what its clicks make of it. */
function picturesOf(page: XmlNode, number: number, context: PageContext, said: (name: string) => string | undefined) {
  const { styles, files, masters, sizeOf } = context
  const master = masters.get(page.attrs['draw:master-page-name'])
  const inches = sizeOf(master)
  const scale = Math.min(1920 / inches.width, 1080 / inches.height)
  const [width, height] = [Math.round(inches.width * scale), Math.round(inches.height * scale)]
  const warnings = new Warnings()
  const films = filmsOf(page, files, warnings)
  const drawer = (state: SlideState): Drawer => ({
    styles,
    scale,
    pageNumber: number,
    files,
    state,
    width,
    height,
    warnings,
    altTexts: [],
    films,
    filmBoxes: new Map(),
  })
  // fields of the foot stand on the master, and are shown where the page says so
  const isShown = (node: XmlNode) => {
    const kind = node.attrs['presentation:class']
    if (kind === undefined) return true
    const field = { footer: 'footer', 'page-number': 'page-number', 'date-time': 'date-time' }[kind]
    return field !== undefined && said(`presentation:display-${field}`) === 'true'
  }
  const behind =
    said('presentation:background-objects-visible') === 'false'
      ? []
      : (master?.children ?? []).filter(isShown).flatMap((node) => drawNode(node, drawer(AS_DRAWN)))
  const background: Fill = fillOf(said, { styles, files, scale }) ?? { kind: 'solid', colour: '#ffffff' }
  const draw = (d: Drawer) => ({
    width,
    height,
    background,
    items: [...behind, ...page.children.flatMap((node) => drawNode(node, d))],
  })
  const pictures = stepPictures(readClicks(page, new Set(films.keys())), (state) => draw(drawer(state)))
  if (pictures.untaken > 0) warnings.add(WARN.animations(pictures.untaken))
  // what pictures are said to show, of all that the page shows in the end
  const whole = drawer(AS_DRAWN)
  const placed = placedFilms(films, draw(whole), whole.filmBoxes, pictures, warnings)
  return { drawing: pictures.drawing, ...placed, warnings, altTexts: whole.altTexts }
}

/** @param number its place in the file, from 1 */
export function readPage(page: XmlNode, number: number, context: PageContext): DeckSlide {
  const { styles, files, masters } = context
  const look = styles.chain('drawing-page', page.attrs['draw:style-name'])
  const masterLook = styles.chain('drawing-page', masters.get(page.attrs['draw:master-page-name'])?.attrs['draw:style-name'])
  const said = (name: string) =>
    property(look, 'drawing-page-properties', name) ?? property(masterLook, 'drawing-page-properties', name)
  const { drawing, steps, films, warnings, altTexts } = picturesOf(page, number, context, said)
  const titled = children(page, 'frame').find((frame) => frame.attrs['presentation:class'] === 'title')
  const texts = page.children
    .filter((n) => n.name !== 'notes')
    .map((n) => plain(n))
    .filter(Boolean)
  const sound = below(page, 'sound')
    .map((s) => s.attrs['xlink:href']?.replace(/^\.\//, ''))
    .find(Boolean)
  if (sound && !files.has(sound)) warnings.add(WARN.soundElsewhere(sound.split('/').at(-1)!))
  const comesByItself = property(look, 'drawing-page-properties', 'presentation:transition-type') === 'automatic'
  return {
    title: (titled ? plain(titled) : (texts[0] ?? '')).replace(/\s+/g, ' ').slice(0, 120),
    altText: [...texts, ...altTexts].join(' ').replace(/\s+/g, ' ').trim().slice(0, 1000),
    isAltTextDraft: texts.length > 0,
    notes: children(child(page, 'notes'), 'frame')
      .filter((f) => f.attrs['presentation:class'] === 'notes')
      .map((f) => plain(f))
      .join('\n')
      .trim(),
    section: '',
    hidden: said('presentation:visibility') === 'hidden',
    advanceMs: comesByItself ? durationMs(property(look, 'drawing-page-properties', 'presentation:duration')) : null,
    sound: sound && files.has(sound) ? sound : null,
    warnings: warnings.list(),
    drawing,
    steps,
    films,
    transition: transitionOf(look),
  }
}
