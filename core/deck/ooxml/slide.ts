/** One slide of a PresentationML deck, with all it takes from its layout and master. @see ECMA-376, part 1, §19.3 */

import type { Message } from '#core/words/say.ts'
import type { Drawing, DrawnItem, Fill, TextBox, Transform } from '../deck.ts'
import { isFileName } from '../title.ts'
import { WARN, Warnings } from '../warnings.ts'
import { at, below, child, children, numberOf, type XmlNode } from '../xml.ts'
import { chartItems } from './charts.ts'
import { colourIn, colourMap, overriddenMap, type Theme, themeOf } from './colours.ts'
import type { OfficePackage, Relation } from './package.ts'
import { backgroundOf, fillIn, lineIn, type PaintContext, pictureIn, shapeFill } from './paint.ts'
import { customPath, presetPath } from './shapes.ts'
import { plainText, textBox } from './text.ts'

const WHITE: Fill = { kind: 'solid', colour: '#ffffff' }
const RECT = presetPath('rect', new Map(), 1, 1)!

export interface SlideSize {
  /** English Metric Units. */
  cx: number
  cy: number
}

/** A part with its relations: the slide, its layout, its master. */
interface Sheet {
  node: XmlNode
  relations: Relation[]
}

interface Drawer {
  pack: OfficePackage
  theme: Theme
  scale: number
  slideNumber: number
  /** Styles of text by the kind of placeholder. */
  master: XmlNode | null
  deckStyle: XmlNode | undefined
  layers: { slide: Sheet; layout: Sheet | null; master: Sheet | null }
  warnings: Warnings
  altTexts: string[]
}

/** Maps what a group has inside to where it stands. */
interface Frame {
  x: number
  y: number
  scaleX: number
  scaleY: number
}

const EVERYTHING: Frame = { x: 0, y: 0, scaleX: 1, scaleY: 1 }

const placeholderOf = (shape: XmlNode): XmlNode | undefined =>
  shape.children.map((c) => (/^nv.*Pr$/.test(c.name) ? at(c, 'nvPr', 'ph') : undefined)).find(Boolean)
const namesOf = (shape: XmlNode): XmlNode | undefined => {
  const holder = shape.children.find((c) => /^nv.*Pr$/.test(c.name))
  return child(holder, 'cNvPr')
}

/** The placeholder a shape takes after, in a layout or master. */
function counterpart(sheet: Sheet | null, placeholder: XmlNode | undefined): XmlNode | undefined {
  if (!sheet || !placeholder) return undefined
  const shapes = children(at(sheet.node, 'cSld', 'spTree'), 'sp')
  const kind = (node: XmlNode | undefined) => {
    const type = node?.attrs.type ?? 'body'
    return type === 'ctrTitle' ? 'title' : type === 'subTitle' || type === 'obj' ? 'body' : type
  }
  const { idx } = placeholder.attrs
  return (
    (idx === undefined
      ? undefined
      : shapes.find((shape) => placeholderOf(shape)?.attrs.idx === idx && kind(placeholderOf(shape)) === kind(placeholder))) ??
    shapes.find((shape) => placeholderOf(shape) && kind(placeholderOf(shape)) === kind(placeholder)) ??
    (idx === undefined ? undefined : shapes.find((shape) => placeholderOf(shape)?.attrs.idx === idx))
  )
}

function transformOf(xfrm: XmlNode | undefined, frame: Frame, scale: number): Transform | null {
  const [off, ext] = [child(xfrm, 'off'), child(xfrm, 'ext')]
  if (!off || !ext) return null
  const [x, y, cx, cy] = [off.attrs.x, off.attrs.y, ext.attrs.cx, ext.attrs.cy].map((v) => numberOf(v) ?? 0) as [
    number,
    number,
    number,
    number,
  ]
  return {
    x: (frame.x + x * frame.scaleX) * scale,
    y: (frame.y + y * frame.scaleY) * scale,
    width: cx * frame.scaleX * scale,
    height: cy * frame.scaleY * scale,
    rotation: (numberOf(xfrm?.attrs.rot) ?? 0) / 60_000,
    flipX: xfrm?.attrs.flipH === '1',
    flipY: xfrm?.attrs.flipV === '1',
  }
}

const adjustments = (geometry: XmlNode | undefined) =>
  new Map(
    children(child(geometry, 'avLst'), 'gd').flatMap((gd): [string, number][] => {
      const value = numberOf(/^val (-?\d+)$/.exec(gd.attrs.fmla ?? '')?.[1])
      return value === null ? [] : [[gd.attrs.name ?? '', value]]
    }),
  )

function drawShape(shape: XmlNode, frame: Frame, sheet: Sheet, d: Drawer): DrawnItem[] {
  const placeholder = placeholderOf(shape)
  const fromLayout = sheet === d.layers.slide ? counterpart(d.layers.layout, placeholder) : undefined
  const fromMaster = counterpart(
    sheet === d.layers.master ? null : d.layers.master,
    placeholder ?? (fromLayout && placeholderOf(fromLayout)),
  )
  const chain = [fromMaster, fromLayout, shape]
  const properties = child(shape, 'spPr')
  const xfrm = [...chain]
    .reverse()
    .map((s) => at(s, 'spPr', 'xfrm'))
    .find((x) => x && child(x, 'off'))
  const box = transformOf(xfrm, frame, d.scale)
  if (!box) return []
  const context: PaintContext = { theme: d.theme, scale: d.scale, relations: sheet.relations }
  const style = child(shape, 'style')
  const geometry = [...chain]
    .reverse()
    .map((s) => at(s, 'spPr', 'prstGeom') ?? at(s, 'spPr', 'custGeom'))
    .find(Boolean)
  const name = geometry?.attrs.prst ?? 'rect'
  const path =
    geometry?.name === 'custGeom' ? customPath(geometry) : presetPath(name, adjustments(geometry), box.width, box.height)
  if (!path) d.warnings.add(WARN.plainBox(namesOf(shape)?.attrs.name || name))
  const inherited = [...chain]
    .reverse()
    .map((s) => fillIn(child(s, 'spPr'), context))
    .find((f) => f !== undefined)
  const fill = inherited !== undefined ? inherited : shapeFill(properties, style, context)
  const line = lineIn(properties, style, context)

  const body = child(shape, 'txBody')
  const type = placeholder?.attrs.type ?? (placeholder ? 'body' : null)
  const kind =
    type === 'title' || type === 'ctrTitle'
      ? 'titleStyle'
      : type === null || /^(dt|ftr|sldNum)$/.test(type)
        ? 'otherStyle'
        : 'bodyStyle'
  const styles = [d.deckStyle, at(d.master, 'txStyles', kind), ...chain.map((s) => at(s, 'txBody', 'lstStyle'))]
  const fontColour = colourIn(child(style, 'fontRef'), d.theme)
  const text = body
    ? textBox(
        body,
        chain.map((s) => at(s, 'txBody', 'bodyPr')),
        {
          theme: d.theme,
          scale: d.scale,
          styles,
          colour: fontColour ?? `#${d.theme.colours.get(d.theme.map.get('tx1') ?? 'dk1') ?? '000000'}`,
          slideNumber: d.slideNumber,
        },
      )
    : null
  if (!fill && !line && !text) return []
  return [{ kind: 'shape', box, path: path ?? RECT, fill, line, text }]
}

const FILM = /\.(mp4|mov|avi|wmv|m4v|mpe?g|webm)$/i
const PICTURES = /\.(png|jpe?g|gif|webp|bmp|tiff?|svg|avif)$/i

/** The sign that stands on a slide for its sound. */
function isSoundSign(shape: XmlNode, relations: readonly Relation[]): boolean {
  const media = at(shape, 'nvPicPr', 'nvPr')?.children.flatMap((c) => [c, ...below(c, 'media')]) ?? []
  const ids = media.flatMap((m) => [m.attrs['r:link'], m.attrs['r:embed']])
  return relations.some((r) => ids.includes(r.id) && !FILM.test(r.target))
}

function drawPicture(shape: XmlNode, frame: Frame, sheet: Sheet, d: Drawer): DrawnItem[] {
  if (isSoundSign(shape, sheet.relations)) return []
  const description = namesOf(shape)?.attrs.descr
  if (description && !isFileName(description)) d.altTexts.push(description)
  const placeholder = placeholderOf(shape)
  const box = transformOf(
    at(shape, 'spPr', 'xfrm') ?? at(counterpart(d.layers.layout, placeholder), 'spPr', 'xfrm'),
    frame,
    d.scale,
  )
  const fill = child(shape, 'blipFill')
  const picture = pictureIn(child(fill, 'blip'), sheet.relations)
  if (!box) return []
  if (!picture || picture.external || !d.pack.has(picture.target)) {
    d.warnings.add(WARN.linkedPicture)
    return []
  }
  if (!PICTURES.test(picture.target)) {
    d.warnings.add(WARN.drawing(picture.target.split('.').at(-1)!.toUpperCase()))
    return []
  }
  const crop = child(fill, 'srcRect')
  const side = (name: string) => (numberOf(crop?.attrs[name]) ?? 0) / 100_000
  const context: PaintContext = { theme: d.theme, scale: d.scale, relations: sheet.relations }
  const opacity = (numberOf(at(fill, 'blip', 'alphaModFix')?.attrs.amt) ?? 100_000) / 100_000
  const line = lineIn(child(shape, 'spPr'), child(shape, 'style'), context)
  return [
    {
      kind: 'picture',
      box,
      part: picture.target,
      crop: { left: side('l'), top: side('t'), right: side('r'), bottom: side('b') },
      opacity,
    },
    ...(line ? [{ kind: 'shape' as const, box, path: RECT, fill: null, line, text: null }] : []),
  ]
}

/** Widths of letters as a share of their size, and heights of lines: near enough for how high a row is. */
const LETTER_WIDTH = 0.5
const LINE_HEIGHT = 1.2

function textHeight(text: TextBox, width: number): number {
  const room = Math.max(1, width - text.inset.left - text.inset.right)
  const lines = text.paragraphs.map((p) => {
    const size = Math.max(...p.runs.map((run) => run.size))
    const long = p.runs.reduce((sum, run) => sum + run.text.length * run.size * LETTER_WIDTH, 0)
    return Math.max(1, Math.ceil(long / room)) * size * LINE_HEIGHT
  })
  return lines.reduce((a, b) => a + b, 0) + text.inset.top + text.inset.bottom
}

function drawTable(table: XmlNode, box: Transform, sheet: Sheet, d: Drawer): DrawnItem[] {
  const context: PaintContext = { theme: d.theme, scale: d.scale, relations: sheet.relations }
  const columns = children(child(table, 'tblGrid'), 'gridCol').map((c) => (numberOf(c.attrs.w) ?? 0) * d.scale)
  const flags = child(table, 'tblPr')?.attrs ?? {}
  const accent = `#${d.theme.colours.get('accent1') ?? '17594A'}`
  const ink = `#${d.theme.colours.get(d.theme.map.get('tx1') ?? 'dk1') ?? '000000'}`
  const styled = child(child(table, 'tblPr'), 'tableStyleId') !== undefined
  const items: DrawnItem[] = []
  let y = box.y
  for (const [r, row] of children(table, 'tr').entries()) {
    let height = (numberOf(row.attrs.h) ?? 0) * d.scale
    const first = items.length
    let x = box.x
    for (const [c, cell] of children(row, 'tc').entries()) {
      const span = Math.max(1, Number(cell.attrs.gridSpan ?? 1))
      const rows = Math.max(1, Number(cell.attrs.rowSpan ?? 1))
      const width = columns.slice(c, c + span).reduce((a, b) => a + b, 0)
      const column = columns[c] ?? 0
      if (cell.attrs.hMerge !== '1' && cell.attrs.vMerge !== '1') {
        const properties = child(cell, 'tcPr')
        const header = r === 0 && flags.firstRow === '1'
        const own = fillIn(properties, context)
        const usual: Fill | null = !styled
          ? null
          : header
            ? { kind: 'solid', colour: accent }
            : flags.bandRow === '1' && r % 2 === 1
              ? { kind: 'solid', colour: 'rgba(120, 130, 130, 0.14)' }
              : null
        const margins: Record<string, string | undefined> = {
          lIns: properties?.attrs.marL,
          rIns: properties?.attrs.marR,
          tIns: properties?.attrs.marT,
          bIns: properties?.attrs.marB,
          anchor: properties?.attrs.anchor,
        }
        const attrs = Object.fromEntries(
          Object.entries(margins).filter((pair): pair is [string, string] => pair[1] !== undefined),
        )
        const bodyPr: XmlNode = { name: 'bodyPr', attrs, children: [], text: '' }
        const body = child(cell, 'txBody')
        const border = ['lnL', 'lnR', 'lnT', 'lnB']
          .map((name) => fillIn(child(properties, name), context))
          .find((f) => f?.kind === 'solid')
        items.push({
          kind: 'shape',
          box: { x, y, width, height: height * rows, rotation: 0, flipX: false, flipY: false },
          path: RECT,
          fill: own === undefined ? usual : own,
          line: {
            colour: border?.kind === 'solid' ? border.colour : styled ? 'rgba(160, 165, 165, 0.8)' : 'rgba(120, 120, 120, 0.9)',
            width: 1.5,
            dash: [],
            head: false,
            tail: false,
          },
          text: body
            ? textBox(body, [bodyPr], {
                theme: d.theme,
                scale: d.scale,
                styles: [d.deckStyle, at(d.master, 'txStyles', 'otherStyle'), child(body, 'lstStyle')],
                colour: header && own === undefined && styled ? '#ffffff' : ink,
                slideNumber: d.slideNumber,
              })
            : null,
        })
      }
      x += column
    }
    // a row is as high as its text needs, whatever is written beside it
    for (const item of items.slice(first)) {
      if (item.kind === 'shape' && item.text && item.box.height <= height)
        height = Math.max(height, textHeight(item.text, item.box.width))
    }
    for (const item of items.slice(first)) item.box.height = Math.max(item.box.height, height)
    y += height
  }
  return items
}

/**
 * A diagram is kept as data for a layout (ECMA-376, part 1, §21.4), and beside it as the shapes that its writer last laid out.
 *
 * @see [MS-ODRAWXML] §2.4, dataModelExt: names the part with those shapes
 */
function diagramDrawing(relIds: XmlNode | undefined, sheet: Sheet, d: Drawer) {
  const data = sheet.relations.find((r) => r.id === relIds?.attrs['r:dm'])
  if (!data || !d.pack.has(data.target)) return null
  const named = below(d.pack.xml(data.target), 'dataModelExt')[0]?.attrs.relId
  const drawing = sheet.relations.find((r) => r.id === named)
  if (!drawing || !d.pack.has(drawing.target)) return null
  const [tree] = below(d.pack.xml(drawing.target), 'spTree')
  return tree ? { tree, relations: d.pack.relations(drawing.target) } : null
}

function drawFrame(shape: XmlNode, frame: Frame, sheet: Sheet, d: Drawer): DrawnItem[] {
  const description = namesOf(shape)?.attrs.descr
  if (description && !isFileName(description)) d.altTexts.push(description)
  const box = transformOf(child(shape, 'xfrm'), frame, d.scale)
  const data = at(shape, 'graphic', 'graphicData')
  if (!box || !data) return []
  const table = child(data, 'tbl')
  if (table) return drawTable(table, box, sheet, d)
  const chart = child(data, 'chart')
  if (chart) {
    const relation = sheet.relations.find((r) => r.id === chart.attrs['r:id'])
    const items = relation && d.pack.has(relation.target) ? chartItems(d.pack.xml(relation.target), box, d.theme) : null
    if (items) return items
    d.warnings.add(WARN.unknownChart)
    return []
  }
  const diagram = diagramDrawing(child(data, 'relIds'), sheet, d)
  if (diagram) {
    // its shapes are placed from the frame's own corner
    const off = at(shape, 'xfrm', 'off')
    const x = frame.x + (numberOf(off?.attrs.x) ?? 0) * frame.scaleX
    const y = frame.y + (numberOf(off?.attrs.y) ?? 0) * frame.scaleY
    return drawTree(diagram.tree, { ...frame, x, y }, { ...sheet, relations: diagram.relations }, d, false)
  }
  // many writers keep a picture of it beside
  const pictures = below(data, 'pic')
  if (pictures.length > 0) return pictures.flatMap((picture) => drawPicture(picture, frame, sheet, d))
  d.warnings.add(/diagram/.test(data.attrs.uri ?? '') ? WARN.diagram : WARN.embeddedObject)
  return []
}

function drawTree(tree: XmlNode | undefined, frame: Frame, sheet: Sheet, d: Drawer, skipPlaceholders: boolean): DrawnItem[] {
  return (tree?.children ?? []).flatMap((shape): DrawnItem[] => {
    if (namesOf(shape)?.attrs.hidden === '1') return []
    if (skipPlaceholders && placeholderOf(shape)) return []
    switch (shape.name) {
      case 'sp':
      case 'cxnSp':
        return drawShape(shape, frame, sheet, d)
      case 'pic':
        return drawPicture(shape, frame, sheet, d)
      case 'graphicFrame':
        return drawFrame(shape, frame, sheet, d)
      case 'grpSp': {
        const xfrm = at(shape, 'grpSpPr', 'xfrm')
        const n = (name: string, attr: string) => numberOf(child(xfrm, name)?.attrs[attr]) ?? 0
        const [cx, cy] = [n('chExt', 'cx') || n('ext', 'cx') || 1, n('chExt', 'cy') || n('ext', 'cy') || 1]
        const [sx, sy] = [(n('ext', 'cx') || cx) / cx, (n('ext', 'cy') || cy) / cy]
        const inner: Frame = {
          x: frame.x + (n('off', 'x') - n('chOff', 'x') * sx) * frame.scaleX,
          y: frame.y + (n('off', 'y') - n('chOff', 'y') * sy) * frame.scaleY,
          scaleX: frame.scaleX * sx,
          scaleY: frame.scaleY * sy,
        }
        return drawTree(shape, inner, sheet, d, skipPlaceholders)
      }
      default:
        return []
    }
  })
}

export interface ReadSlide {
  drawing: Drawing
  title: string
  altText: string
  isAltTextDraft: boolean
  warnings: Message[]
}

/** @param part name of the slide's part; @param number its place in the deck, from 1 */
export function readSlide(
  pack: OfficePackage,
  part: string,
  number: number,
  size: SlideSize,
  deckStyle: XmlNode | undefined,
): ReadSlide {
  const sheetOf = (name: string | undefined): (Sheet & { part: string }) | null =>
    name && pack.has(name) ? { node: pack.xml(name), relations: pack.relations(name), part: name } : null
  const target = (sheet: Sheet | null, type: string) => sheet?.relations.find((r) => r.type === type)?.target
  const slide = sheetOf(part)!
  const layout = sheetOf(target(slide, 'slideLayout'))
  const master = sheetOf(target(layout, 'slideMaster'))
  const themePart = target(master, 'theme')
  const map = overriddenMap(slide.node) ?? (layout && overriddenMap(layout.node)) ?? colourMap(child(master?.node, 'clrMap'))
  const theme = themeOf(themePart && pack.has(themePart) ? pack.xml(themePart) : null, map)
  const scale = Math.min(1920 / size.cx, 1080 / size.cy)
  const d: Drawer = {
    pack,
    theme,
    scale,
    slideNumber: number,
    master: master?.node ?? null,
    deckStyle,
    layers: { slide, layout, master },
    warnings: new Warnings(),
    altTexts: [],
  }
  const background =
    [slide, layout, master].flatMap((sheet) =>
      sheet ? (backgroundOf(sheet.node, { theme, scale, relations: sheet.relations }) ?? []) : [],
    )[0] ?? WHITE
  const shows = (sheet: Sheet) => sheet.node.attrs.showMasterSp !== '0'
  const tree = (sheet: Sheet) => at(sheet.node, 'cSld', 'spTree')
  const behind = shows(slide)
    ? [
        ...(layout && master && shows(layout) ? drawTree(tree(master), EVERYTHING, master, d, true) : []),
        ...(layout ? drawTree(tree(layout), EVERYTHING, layout, d, true) : []),
      ]
    : []
  d.altTexts.length = 0 // what is behind every slide says nothing of this one
  const items = [...behind, ...drawTree(tree(slide), EVERYTHING, slide, d, false)]
  if (slide.relations.some((r) => FILM.test(r.target))) d.warnings.add(WARN.firstPictureOnly)

  const texts = below(tree(slide), 'txBody').map(plainText).filter(Boolean)
  const titled = children(tree(slide), 'sp').find((shape) => /^(title|ctrTitle)$/.test(placeholderOf(shape)?.attrs.type ?? ''))
  const title = (titled ? plainText(child(titled, 'txBody')) : (texts[0] ?? '')).replace(/\s+/g, ' ').trim()
  return {
    drawing: { width: Math.round(size.cx * scale), height: Math.round(size.cy * scale), background, items },
    title: title.slice(0, 120),
    altText: [...texts, ...d.altTexts].join(' ').replace(/\s+/g, ' ').trim().slice(0, 1000),
    isAltTextDraft: texts.length > 0,
    warnings: d.warnings.list(),
  }
}
