/** One slide of a PresentationML deck, with all it takes from its layout and master, as it stands at first and after each click. @see ECMA-376, part 1, §19.3 */

import type { Message } from '#core/words/say.ts'
import type { DeckFilm, DeckStep, Drawing, Fill, Transform } from '../deck.ts'
import { placedFilms } from '../steps/place-films.ts'
import { stepPictures } from '../steps/step-pictures.ts'
import type { SlideState } from '../steps/steps.ts'
import { WARN, Warnings } from '../warnings.ts'
import { at, below, child, children, type XmlNode } from '../xml.ts'
import { colourMap, overriddenMap, themeOf } from './colours.ts'
import { drawTree } from './draw.ts'
import { filmsOf } from './films.ts'
import { type Drawer, EVERYTHING, placeholderOf, type Sheet } from './layers.ts'
import type { OfficePackage } from './package.ts'
import { backgroundOf } from './paint.ts'
import { plainText } from './text.ts'
import { readClicks } from './timing.ts'

const WHITE: Fill = { kind: 'solid', colour: '#ffffff' }

export interface SlideSize {
  /** English Metric Units. */
  cx: number
  cy: number
}

export interface ReadSlide {
  drawing: Drawing
  steps: DeckStep[]
  title: string
  altText: string
  isAltTextDraft: boolean
  warnings: Message[]
  films: DeckFilm[]
}

/** What all slides of a deck share. */
export interface DeckContext {
  pack: OfficePackage
  size: SlideSize
  /** `defaultTextStyle` of the presentation. */
  deckStyle: XmlNode | undefined
  tableStyles: XmlNode | null
}

/** The slide with what lies under it. */
function layersOf(pack: OfficePackage, part: string) {
  const sheetOf = (name: string | undefined): Sheet | null =>
    name && pack.has(name) ? { node: pack.xml(name), relations: pack.relations(name) } : null
  const target = (sheet: Sheet | null, type: string) => sheet?.relations.find((r) => r.type === type)?.target
  const slide = sheetOf(part)!
  const layout = sheetOf(target(slide, 'slideLayout'))
  const master = sheetOf(target(layout, 'slideMaster'))
  const themePart = target(master, 'theme')
  const map = overriddenMap(slide.node) ?? (layout && overriddenMap(layout.node)) ?? colourMap(child(master?.node, 'clrMap'))
  const theme = themeOf(themePart && pack.has(themePart) ? pack.xml(themePart) : null, map)
  return { slide, layout, master, theme }
}

const isOn = (box: Transform, width: number, height: number) =>
  box.x < width && box.y < height && box.x + box.width > 0 && box.y + box.height > 0

const shows = (sheet: Sheet) => sheet.node.attrs.showMasterSp !== '0'
const treeOf = (sheet: Sheet) => at(sheet.node, 'cSld', 'spTree')

/** @param part name of the slide's part; @param number its place in the deck, from 1 */
export function readSlide({ pack, size, deckStyle, tableStyles }: DeckContext, part: string, number: number): ReadSlide {
  const { theme, ...layers } = layersOf(pack, part)
  const { slide, layout, master } = layers
  const scale = Math.min(1920 / size.cx, 1080 / size.cy)
  const [width, height] = [Math.round(size.cx * scale), Math.round(size.cy * scale)]
  const warnings = new Warnings()
  const films = filmsOf(slide.node, slide.relations, pack, warnings)
  const drawer = (state: SlideState): Drawer => ({
    pack,
    theme,
    scale,
    slideNumber: number,
    master: master?.node ?? null,
    deckStyle,
    tableStyles,
    layers,
    state,
    width,
    height,
    warnings,
    altTexts: [],
    films,
    filmBoxes: new Map(),
  })
  const background =
    [slide, layout, master].flatMap((sheet) =>
      sheet ? (backgroundOf(sheet.node, { theme, scale, relations: sheet.relations }) ?? []) : [],
    )[0] ?? WHITE
  const under = drawer(new Map())
  const behind = shows(slide)
    ? [
        ...(layout && master && shows(layout) ? drawTree(treeOf(master), EVERYTHING, master, under, true) : []),
        ...(layout ? drawTree(treeOf(layout), EVERYTHING, layout, under, true) : []),
      ]
    : []
  const draw = (d: Drawer): Drawing => ({
    width,
    height,
    background,
    items: [...behind, ...drawTree(treeOf(slide), EVERYTHING, slide, d, false)],
  })
  const clicks = readClicks(slide.node, theme, new Set(films.keys()))
  const pictures = stepPictures(clicks, (state) => draw(drawer(state)))
  if (pictures.untaken > 0) warnings.add(WARN.animations(pictures.untaken))

  // what pictures are said to show, of all that the slide shows in the end
  const whole = drawer(new Map())
  const texts = (treeOf(slide)?.children ?? [])
    .filter((shape) => {
      const items = drawTree({ ...shape, name: 'spTree', children: [shape] }, EVERYTHING, slide, whole, false)
      // what stands beside the slide is not seen
      return items.length === 0 || items.some(({ box }) => isOn(box, width, height))
    })
    .flatMap((shape) => below(shape, 'txBody').map(plainText).filter(Boolean))
  const titled = children(treeOf(slide), 'sp').find((shape) => /^(title|ctrTitle)$/.test(placeholderOf(shape)?.attrs.type ?? ''))
  const title = (titled ? plainText(child(titled, 'txBody')) : (texts[0] ?? '')).replace(/\s+/g, ' ').trim()
  const filmed = drawer(new Map())
  const placed = placedFilms(films, films.size > 0 ? draw(filmed) : pictures.drawing, filmed.filmBoxes, pictures, warnings)
  return {
    drawing: pictures.drawing,
    ...placed,
    title: title.slice(0, 120),
    altText: [...texts, ...whole.altTexts].join(' ').replace(/\s+/g, ' ').trim().slice(0, 1000),
    isAltTextDraft: texts.length > 0,
    warnings: warnings.list(),
  }
}
