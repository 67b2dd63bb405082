/** Shapes, pictures and tables of a page, as what is to be painted. @see OpenDocument 1.3, part 3, §10 */
import { message } from '#core/words/say.ts'
import type { DrawnItem, Fill, FoundFilm, Line, PathStep, TextBox, Transform } from '../deck.ts'
import { presetOutlines, RECTANGLE } from '../ooxml/geometry/outline.ts'
import { fitted, restated } from '../steps/place.ts'
import type { SlideState } from '../steps/steps.ts'
import { isFileName } from '../title.ts'
import { WARN, type Warnings } from '../warnings.ts'
import { child, children, numberOf, type XmlNode } from '../xml.ts'
import { chartIn } from './chart.ts'
import { filmName, isFilmFrame } from './films.ts'
import { drawnOutline, enhancedOutlines, type OwnOutline, textArea } from './geometry.ts'
import { embeddedIn } from './object.ts'
import { inches, property, type Styles } from './styles.ts'
import { hasWords, paragraphsOf } from './text.ts'
import { targetName } from './timing.ts'

export interface Drawer {
  styles: Styles
  /** Pixels of an inch. */
  scale: number
  pageNumber: number
  files: ReadonlyMap<string, Uint8Array>
  /** How shapes of the page stand after so many clicks. */
  state: SlideState
  /** Of the page, pixels. */
  width: number
  height: number
  warnings: Warnings
  altTexts: string[]
  /** Films of the page, by the names of their frames, and where those that were drawn stand. */
  films: ReadonlyMap<string, FoundFilm>
  filmBoxes: Map<string, { box: Transform; hasPoster: boolean }>
  /** Inside of a document that lies on the page: what lies in that one again is not looked into. */
  isInside?: boolean
}

/** Pixels of a length. */
const px = (length: string | undefined, d: Drawer, usual = 0) => (inches(length) ?? usual) * d.scale

function boxOf(node: XmlNode, d: Drawer): Transform | null {
  const { attrs } = node
  if (attrs['svg:x1'] !== undefined) {
    const [x1 = 0, y1 = 0, x2 = 0, y2 = 0] = ['x1', 'y1', 'x2', 'y2'].map((k) => px(attrs[`svg:${k}`], d))
    return {
      x: Math.min(x1, x2),
      y: Math.min(y1, y2),
      width: Math.abs(x2 - x1),
      height: Math.abs(y2 - y1),
      rotation: 0,
      flipX: x2 < x1,
      flipY: y2 < y1,
    }
  }
  const [width, height] = [inches(attrs['svg:width']), inches(attrs['svg:height'])]
  if (width === null || height === null) return null
  const transform = attrs['draw:transform'] ?? ''
  const turn = Number(/rotate\s*\((-?[\d.]+)\)/.exec(transform)?.[1] ?? 0)
  const moved = /translate\s*\((\S+)\s+(\S+)\)/.exec(transform)
  let [x, y] = [inches(attrs['svg:x']) ?? inches(moved?.[1]) ?? 0, inches(attrs['svg:y']) ?? inches(moved?.[2]) ?? 0]
  if (turn !== 0) {
    // it turns about its corner, against the clock
    const [cx, cy] = [
      (width / 2) * Math.cos(turn) + (height / 2) * Math.sin(turn),
      (-width / 2) * Math.sin(turn) + (height / 2) * Math.cos(turn),
    ]
    x += cx - width / 2
    y += cy - height / 2
  }
  return {
    x: x * d.scale,
    y: y * d.scale,
    width: width * d.scale,
    height: height * d.scale,
    rotation: (-turn * 180) / Math.PI,
    flipX: false,
    flipY: false,
  }
}

/** Reads a property by the nearest style that says it. */
type Said = (name: string) => string | undefined

/** A colour with what it lets through. */
function withOpacity(colour: string, opacity: string | undefined): string {
  const share = Number.parseFloat(opacity ?? '100') / 100
  const parts = /^#(..)(..)(..)$/.exec(colour)?.slice(1)
  return share >= 1 || !parts ? colour : `rgba(${parts.map((hex) => Number.parseInt(hex, 16)).join(', ')}, ${share})`
}

/** Of a picture that says nothing of its size. */
const PIXELS_AN_INCH = 96

/** What a shape, a cell or a page is filled with. @see OpenDocument 1.3, part 3, §20.129 draw:fill, §16.40.2 draw:gradient */
export function fillOf(said: Said, d: Pick<Drawer, 'styles' | 'files' | 'scale'>): Fill | null {
  const kind = said('draw:fill')
  if (kind === 'bitmap') {
    const part = d.styles.filling(said('draw:fill-image-name'))?.attrs['xlink:href']?.replace(/^\.\//, '')
    if (!part || !d.files.has(part)) return null
    if ((said('style:repeat') ?? 'repeat') !== 'repeat') return { kind: 'picture', part }
    const side = (name: string) => (inches(said(name)) || null) && inches(said(name))! * d.scale
    const size = { width: side('draw:fill-image-width'), height: side('draw:fill-image-height') }
    return { kind: 'picture', part, tile: { ...size, pixel: d.scale / PIXELS_AN_INCH } }
  }
  if (kind === 'gradient') {
    const gradient = d.styles.filling(said('draw:fill-gradient-name'))?.attrs
    const [start, end] = [gradient?.['draw:start-color'], gradient?.['draw:end-color']]
    if (gradient && start && end) {
      const isLinear = /^(linear|axial)$/.test(gradient['draw:style'] ?? 'linear')
      const share = (name: string) => Number.parseFloat(gradient[name] ?? '50') / 100
      // an axial one goes to the middle and back; others begin at their edge
      const stops =
        gradient['draw:style'] === 'axial'
          ? [end, start, end].map((colour, i) => ({ at: i / 2, colour }))
          : (isLinear ? [start, end] : [end, start]).map((colour, at) => ({ at, colour }))
      // from above downwards; it is turned against the clock by tenths of degrees
      const turn = /deg$/.test(gradient['draw:angle'] ?? '')
        ? Number.parseFloat(gradient['draw:angle']!)
        : (numberOf(gradient['draw:angle']) ?? 0) / 10
      return {
        kind: 'gradient',
        angle: 90 - turn,
        stops,
        ...(isLinear ? {} : { radial: { x: share('draw:cx'), y: share('draw:cy') } }),
      }
    }
  }
  const colour = said('draw:fill-color')
  // what a style fills with one colour, or would where it lacks the picture of a hatch
  return kind !== 'none' && kind !== undefined && colour
    ? { kind: 'solid', colour: withOpacity(colour, said('draw:opacity')) }
    : null
}

function lineOf(said: Said, isLine: boolean, d: Drawer): Line | null {
  const stroke = said('draw:stroke')
  if (stroke === 'none' || (stroke === undefined && !isLine)) return null
  const width = Math.max(1.5, px(said('svg:stroke-width'), d))
  const ends = (name: string) => (said(name) ?? '') !== ''
  return {
    colour: withOpacity(said('svg:stroke-color') ?? '#000000', said('svg:stroke-opacity')),
    width,
    dash: stroke === 'dash' ? [width * 4, width * 3] : [],
    head: ends('draw:marker-start'),
    tail: ends('draw:marker-end'),
  }
}

function textOf(node: XmlNode, styles: XmlNode[], said: Said, room: TextBox['inset'], d: Drawer): TextBox | null {
  const paragraphs = paragraphsOf(node, styles, d)
  if (!hasWords(paragraphs)) return null
  const anchor = said('draw:textarea-vertical-align')
  const across = said('draw:textarea-horizontal-align')
  const pad = (side: 'left' | 'right' | 'top' | 'bottom', usual: number) =>
    px(said(`fo:padding-${side}`) ?? said('fo:padding'), d, usual) + room[side]
  return {
    // a text that grows with its lines stands where its box would be, whatever its lines say
    paragraphs:
      across === 'center' && said('fo:wrap-option') === 'no-wrap'
        ? paragraphs.map((p) => ({ ...p, align: 'center' }))
        : paragraphs,
    anchor: anchor === 'middle' ? 'middle' : anchor === 'bottom' ? 'bottom' : 'top',
    inset: { left: pad('left', 0.1), right: pad('right', 0.1), top: pad('top', 0.05), bottom: pad('bottom', 0.05) },
    wrap: said('fo:wrap-option') !== 'no-wrap',
    scale: 1,
    shrinks: said('draw:fit-to-size') === 'shrink-to-fit' || said('style:shrink-to-fit') === 'true',
    turn: said('style:writing-mode') === 'tb-rl' ? 90 : 0,
  }
}

const WHOLE: PathStep[] = RECTANGLE.outlines[0]!.path

/** What of a shape is not for its text. */
function roomIn(node: XmlNode, box: Transform): TextBox['inset'] {
  const geometry = child(node, 'enhanced-geometry')
  const { left, top, right, bottom } =
    (geometry && textArea(geometry)) ??
    (presetOutlines(node.name === 'ellipse' || node.name === 'circle' ? 'ellipse' : 'rect', new Map(), 1, 1) ?? RECTANGLE).text
  return { left: left * box.width, top: top * box.height, right: (1 - right) * box.width, bottom: (1 - bottom) * box.height }
}

const plain = (path: PathStep[]): OwnOutline => ({ path, filled: true, stroked: true })

/** Preset shapes of the other format that are those of this one, where a shape brings no path. */
const PRESETS: Record<string, string> = {
  rectangle: 'rect',
  'round-rectangle': 'roundRect',
  ellipse: 'ellipse',
  'isosceles-triangle': 'triangle',
  'right-triangle': 'rtTriangle',
  diamond: 'diamond',
  parallelogram: 'parallelogram',
  trapezoid: 'trapezoid',
  pentagon: 'pentagon',
  hexagon: 'hexagon',
  octagon: 'octagon',
  'right-arrow': 'rightArrow',
  'left-arrow': 'leftArrow',
  'up-arrow': 'upArrow',
  'down-arrow': 'downArrow',
  'left-right-arrow': 'leftRightArrow',
  chevron: 'chevron',
  'pentagon-right': 'homePlate',
  star5: 'star5',
  can: 'can',
  cross: 'plus',
}
const BARE: Record<string, string> = { ellipse: 'ellipse', circle: 'ellipse', line: 'line', connector: 'line', measure: 'line' }

function outlinesOf(node: XmlNode, box: Transform, d: Drawer): OwnOutline[] {
  if (/^(polygon|polyline|path)$/.test(node.name)) {
    const own = drawnOutline(node)
    if (!own) d.warnings.add(message('A drawn line or shape of its own form could not be drawn.'))
    return own ? [own] : []
  }
  const geometry = child(node, 'enhanced-geometry')
  const type = geometry?.attrs['draw:type'] ?? ''
  // the paths that files have for these two are not always in their box
  const enhanced = geometry && !/^(ellipse|rectangle)$/.test(type) ? enhancedOutlines(geometry) : null
  if (enhanced) return enhanced
  const name = PRESETS[type] ?? BARE[node.name] ?? 'rect'
  const corner = node.name === 'rect' ? px(node.attrs['draw:corner-radius'], d) : 0
  const [preset, adjust] =
    corner > 0
      ? ['roundRect', new Map([['adj', (corner / Math.max(1, Math.min(box.width, box.height))) * 100_000]])]
      : [name, new Map<string, number>()]
  return (presetOutlines(preset, adjust, box.width, box.height)?.outlines ?? []).map(({ path }) => plain(path))
}

/** Files of drawing orders; those of the last kind no library here reads. What has no ending is known when it is read. */
const METAFILE = /\.(emf|wmf|svm)$/i
const UNREAD = /\.(svm)$/i

/** The picture of a frame that can be drawn: of several that show the same the first. What cannot be is told. */
function pictureIn(frame: XmlNode, box: Transform, d: Drawer): string | null {
  const parts = children(frame, 'image').flatMap((image) => image.attrs['xlink:href']?.replace(/^\.\//, '') ?? [])
  const kept = parts.filter((part) => d.files.has(part))
  const drawable = kept.find((part) => !METAFILE.test(part)) ?? kept.find((part) => !UNREAD.test(part))
  const media = child(frame, 'plugin')
  const film = media && d.films.get(filmName(frame))
  if (film) d.filmBoxes.set(filmName(frame), { box, hasPoster: drawable !== undefined })
  // a sound that lies on a slide is not brought in yet
  else if (media && !isFilmFrame(frame))
    d.warnings.add(drawable && !/^audio/.test(media.attrs['draw:mime-type'] ?? '') ? WARN.firstPictureOnly : WARN.embeddedObject)
  if (drawable || media) return drawable ?? null
  if (child(frame, 'object') || child(frame, 'object-ole')) d.warnings.add(WARN.chartOrObject)
  else if (kept[0]) d.warnings.add(WARN.drawing(METAFILE.exec(kept[0])![1]!.toUpperCase()))
  else if (parts.length > 0) d.warnings.add(WARN.linkedPicture)
  return null
}

/** What of a picture is cut away. @see OpenDocument 1.3, part 3, §20.180 fo:clip: lengths from its edges, at its own size */
function cropOf(said: Said, box: Transform, d: Drawer) {
  const lengths = /^rect\(([^)]+)\)$/.exec(said('fo:clip') ?? '')?.[1]
  const [top = 0, right = 0, bottom = 0, left = 0] = (lengths ?? '').split(/[,\s]+/).map((length) => px(length, d))
  // of a picture whose own size is not known here its box is what is left of it
  const [wide, high] = [box.width + left + right, box.height + top + bottom]
  return { left: left / wide, right: right / wide, top: top / high, bottom: bottom / high }
}

/** A document that lies in a frame, as it would be shown there; null where there is none that can be drawn. */
function drawEmbedded(object: XmlNode | undefined, box: Transform, d: Drawer): DrawnItem[] | null {
  const found = d.isInside ? null : embeddedIn(object, d.files)
  if (!found) return null
  const own: Drawer = { ...d, styles: found.styles, state: new Map(), isInside: true }
  const base = found.styles.chain('paragraph', undefined)
  if (found.kind === 'table' && !found.isWhole) d.warnings.add(WARN.tableInPart)
  if (found.kind === 'table') return drawTable(found.table, box, base, own)
  if (found.kind === 'text') {
    const paragraphs = paragraphsOf(found.text, base, own)
    const inset = { left: 0, right: 0, top: 0, bottom: 0 }
    const text: TextBox = { paragraphs, anchor: 'top', inset, wrap: true, scale: 1, shrinks: true, turn: 0 }
    return [{ kind: 'shape', box, path: [], fill: null, line: null, text }]
  }
  const items = found.page.children.flatMap((node) => drawNode(node, own))
  return items.length > 0 ? fitted(items, box) : null
}

function drawFrame(node: XmlNode, box: Transform, styles: XmlNode[], said: Said, d: Drawer): DrawnItem[] {
  const table = child(node, 'table')
  // its picture is for programs that draw no tables
  if (table) return drawTable(table, box, styles, d)
  const text = child(node, 'text-box')
  if (text) return shapeItems(text, [plain(WHOLE)], box, styles, said, d)
  const chart = chartIn(child(node, 'object'), d)
  if (chart) return [{ kind: 'chart', box, chart }]
  const embedded = drawEmbedded(child(node, 'object'), box, d)
  if (embedded) return embedded
  const part = pictureIn(node, box, d)
  if (part === null) return []
  const opacity = Number.parseFloat(said('draw:image-opacity') ?? '100') / 100
  return [{ kind: 'picture', box, part, crop: cropOf(said, box, d), opacity }]
}

function shapeItems(
  node: XmlNode,
  outlines: readonly OwnOutline[],
  box: Transform,
  styles: XmlNode[],
  said: Said,
  d: Drawer,
): DrawnItem[] {
  const isLine = /^(line|connector|polyline|measure)$/.test(node.name)
  const [fill, line] = [isLine ? null : fillOf(said, d), lineOf(said, isLine, d)]
  const text = textOf(node, styles, said, roomIn(node, box), d)
  const items = outlines.map(({ path, filled, stroked }): DrawnItem => {
    const shape = { kind: 'shape' as const, box, path, text: null }
    return { ...shape, fill: filled ? fill : null, line: stroked ? line : null }
  })
  return text ? [...items, { kind: 'shape', box, path: [], fill: null, line: null, text }] : items
}

/** Repeated columns count as many. */
const repeated = (node: XmlNode) => Math.min(200, numberOf(node.attrs['table:number-columns-repeated']) ?? 1)

function drawTable(table: XmlNode, box: Transform, styles: XmlNode[], d: Drawer): DrawnItem[] {
  const columns = [...children(table, 'table-column'), ...children(child(table, 'table-columns'), 'table-column')].flatMap(
    (column) => {
      const width = property(
        d.styles.chain('table-column', column.attrs['table:style-name']),
        'table-column-properties',
        'style:column-width',
      )
      return Array.from({ length: repeated(column) }, () => inches(width))
    },
  )
  const rows = [
    ...children(child(table, 'table-header-rows'), 'table-row'),
    ...children(table, 'table-row'),
    ...children(child(table, 'table-rows'), 'table-row'),
  ]
  const count = Math.max(1, columns.length, ...rows.map((row) => children(row, 'table-cell').length))
  const wide = Array.from({ length: count }, (_, c) => (columns[c] ? columns[c]! * d.scale : box.width / count))
  const high = rows.map((row) => {
    const height = property(
      d.styles.chain('table-row', row.attrs['table:style-name']),
      'table-row-properties',
      'style:row-height',
    )
    return height ? px(height, d) : box.height / Math.max(1, rows.length)
  })
  const sum = (list: readonly number[]) => list.reduce((a, b) => a + b, 0)
  return rows.flatMap((row, r) => {
    let column = 0
    return row.children.flatMap((cell): DrawnItem[] => {
      if (cell.name === 'covered-table-cell') column += repeated(cell)
      if (cell.name !== 'table-cell') return []
      const at = column
      const span = numberOf(cell.attrs['table:number-columns-spanned']) ?? 1
      column += repeated(cell)
      const place: Transform = {
        ...box,
        x: box.x + sum(wide.slice(0, at)),
        y: box.y + sum(high.slice(0, r)),
        width: sum(wide.slice(at, at + span)),
        height: sum(high.slice(r, r + (numberOf(cell.attrs['table:number-rows-spanned']) ?? 1))),
      }
      const own = d.styles.chain('table-cell', cell.attrs['table:style-name'] ?? row.attrs['table:default-cell-style-name'])
      const said = (name: string) =>
        property(own, 'graphic-properties', name) ??
        property(own, 'table-cell-properties', name) ??
        property(own, 'paragraph-properties', name)
      const [item, ...text] = shapeItems(cell, [plain(WHOLE)], place, [...styles, ...own], said, d)
      const line: Line = { colour: 'rgba(120, 120, 120, 0.9)', width: 1.5, dash: [], head: false, tail: false }
      return [{ ...item!, line } as DrawnItem, ...text]
    })
  })
}

function drawBare(node: XmlNode, d: Drawer): DrawnItem[] {
  if (node.name === 'g' || node.name === 'a') return node.children.flatMap((inner) => drawNode(inner, d))
  if (node.name === 'notes') return []
  const box = boxOf(node, d)
  const described = child(node, 'desc')?.text ?? child(node, 'title')?.text
  if (described && !isFileName(described)) d.altTexts.push(described)
  if (!box) return []
  const styles = [
    ...d.styles.chain('graphic', node.attrs['draw:style-name']),
    ...d.styles.chain('presentation', node.attrs['presentation:style-name']),
  ]
  const said = (name: string) => property(styles, 'graphic-properties', name) ?? property(styles, 'paragraph-properties', name)
  if (node.name === 'frame') return drawFrame(node, box, styles, said, d)
  if (!/^(rect|custom-shape|ellipse|circle|line|connector|measure|polygon|polyline|path|caption)$/.test(node.name)) return []
  return shapeItems(node, outlinesOf(node, box, d), box, styles, said, d)
}

/** What stands on a page, as it stands after the clicks so far. */
export function drawNode(node: XmlNode, d: Drawer): DrawnItem[] {
  const items = drawBare(node, d)
  const state = d.state.size > 0 ? targetName(node).flatMap((name) => d.state.get(name) ?? [])[0] : undefined
  return state ? restated(items, state, d) : items
}
