/** Shapes, pictures and frames of a slide, its layout and its master, as what is to be painted. @see ECMA-376, part 1, §19.3.1 */

import type { DrawnItem, Fill, TextBox, Transform } from '../deck.ts'
import { mirrored, restated, turned } from '../steps/place.ts'
import { isFileName } from '../title.ts'
import { WARN } from '../warnings.ts'
import { at, below, child, children, numberOf, type XmlNode } from '../xml.ts'
import { readChart } from './charts.ts'
import { FILM } from './films.ts'
import { customOutlines, type Outlines, presetOutlines, RECTANGLE } from './geometry/outline.ts'
import { counterpart, type Drawer, degrees, type Frame, namesOf, placeholderOf, type Sheet, transformOf } from './layers.ts'
import type { Relation } from './package.ts'
import { fillIn, lineIn, type PaintContext, pictureIn, shadowIn, shapeFill } from './paint.ts'
import { drawTable } from './table.ts'
import { fontStyle, textBox } from './text.ts'

/** Of a fill, where a path is lighter or darker than the shape. @see ECMA-376, part 1, §20.1.10.37, ST_PathFillMode; by how much is from memory */
const SHADE = { lighter: 'rgba(255, 255, 255, 0.3)', darker: 'rgba(0, 0, 0, 0.2)' }

const nearest = (chain: readonly (XmlNode | undefined)[], read: (node: XmlNode | undefined) => XmlNode | undefined) =>
  [...chain].reverse().map(read).find(Boolean)

const adjustments = (geometry: XmlNode | undefined) =>
  new Map(
    children(child(geometry, 'avLst'), 'gd').flatMap((gd): [string, number][] => {
      const value = numberOf(/^val (-?\d+)$/.exec(gd.attrs.fmla ?? '')?.[1])
      return value === null ? [] : [[gd.attrs.name ?? '', value]]
    }),
  )

function outlinesOf(geometry: XmlNode | undefined, box: Transform, shape: XmlNode, d: Drawer): Outlines {
  const [width, height] = [box.width / d.scale, box.height / d.scale]
  if (geometry?.name === 'custGeom') return customOutlines(geometry, width, height)
  const name = geometry?.attrs.prst ?? 'rect'
  const known = presetOutlines(name, adjustments(geometry), width, height)
  if (!known) d.warnings.add(WARN.plainBox(namesOf(shape)?.attrs.name || name))
  return known ?? RECTANGLE
}

const STYLES: Record<string, string> = {
  title: 'titleStyle',
  ctrTitle: 'titleStyle',
  dt: 'otherStyle',
  ftr: 'otherStyle',
  sldNum: 'otherStyle',
}

/** What stands in a shape, within the part of it that is for text. */
function textOf(shape: XmlNode, chain: (XmlNode | undefined)[], outlines: Outlines, box: Transform, d: Drawer): TextBox | null {
  const body = child(shape, 'txBody')
  if (!body) return null
  const placeholder = placeholderOf(shape)
  const kind = placeholder ? (STYLES[placeholder.attrs.type ?? 'body'] ?? 'bodyStyle') : 'otherStyle'
  const text = textBox(
    body,
    chain.map((s) => at(s, 'txBody', 'bodyPr')),
    {
      theme: d.theme,
      scale: d.scale,
      styles: [
        d.deckStyle,
        at(d.master, 'txStyles', kind),
        fontStyle(at(shape, 'style', 'fontRef')),
        ...chain.map((s) => at(s, 'txBody', 'lstStyle')),
      ],
      colour: `#${d.theme.colours.get(d.theme.map.get('tx1') ?? 'dk1') ?? '000000'}`,
      slideNumber: d.slideNumber,
    },
  )
  if (!text) return null
  const { left, top, right, bottom } = outlines.text
  const { inset } = text
  return {
    ...text,
    inset: {
      left: inset.left + left * box.width,
      top: inset.top + top * box.height,
      right: inset.right + (1 - right) * box.width,
      bottom: inset.bottom + (1 - bottom) * box.height,
    },
  }
}

function drawShape(shape: XmlNode, frame: Frame, sheet: Sheet, d: Drawer): DrawnItem[] {
  const placeholder = placeholderOf(shape)
  const fromLayout = sheet === d.layers.slide ? counterpart(d.layers.layout, placeholder) : undefined
  const fromMaster = counterpart(
    sheet === d.layers.master ? null : d.layers.master,
    placeholder ?? (fromLayout && placeholderOf(fromLayout)),
  )
  const chain = [fromMaster, fromLayout, shape]
  const xfrm = nearest(chain, (s) => {
    const own = at(s, 'spPr', 'xfrm')
    return own && child(own, 'off') ? own : undefined
  })
  const box = transformOf(xfrm, frame, d.scale)
  if (!box) return []
  const context: PaintContext = { theme: d.theme, scale: d.scale, relations: sheet.relations }
  const [properties, style] = [child(shape, 'spPr'), child(shape, 'style')]
  const geometry = nearest(chain, (s) => at(s, 'spPr', 'prstGeom') ?? at(s, 'spPr', 'custGeom'))
  const outlines = outlinesOf(geometry, box, shape, d)
  const inherited = [...chain]
    .reverse()
    .map((s) => fillIn(child(s, 'spPr'), context))
    .find((f) => f !== undefined)
  const fill = inherited !== undefined ? inherited : shapeFill(properties, style, context)
  const line = lineIn(properties, style, context)
  const text = textOf(shape, chain, outlines, box, d)
  const shadow = shadowIn(properties, context)
  const bare = { kind: 'shape' as const, box, line: null, text: null }
  const painted =
    fill || line
      ? outlines.outlines.flatMap(({ path, shade, stroked }): DrawnItem[] => {
          const filled = shade === null ? null : fill
          const edge = stroked ? line : null
          const own: DrawnItem & { kind: 'shape' } = { ...bare, path, fill: filled, line: edge }
          if (shadow && (shade === 'as it is' || !fill)) own.shadow = shadow
          if (!filled || shade === 'as it is' || shade === null) return filled || edge ? [own] : []
          return [
            { ...own, line: null },
            { ...bare, path, fill: { kind: 'solid', colour: SHADE[shade] }, line: edge },
          ]
        })
      : []
  if (!text) return painted
  // the text of a diagram's shape may have a place of its own
  const own = transformOf(child(shape, 'txXfrm'), frame, d.scale)
  const place = own ? { ...own, rotation: own.rotation + box.rotation } : box
  const inOwn = own ? { ...text, inset: insetOf(shape, chain, d) } : text
  return [...painted, { kind: 'shape', box: place, path: [], fill: null, line: null, text: inOwn }]
}

/** Of the text's own place no part belongs to the shape. */
function insetOf(shape: XmlNode, chain: (XmlNode | undefined)[], d: Drawer): TextBox['inset'] {
  const own = textOf(shape, chain, RECTANGLE, { x: 0, y: 0, width: 0, height: 0, rotation: 0, flipX: false, flipY: false }, d)
  return own!.inset
}

const PICTURES = /\.(png|jpe?g|gif|webp|tiff?|svg|avif|bmp|dib|hei[cf]|emf|wmf)$/i

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
  const id = namesOf(shape)?.attrs.id ?? ''
  const isFilm = d.films.has(id) && sheet.node === d.layers.slide.node
  const hasPicture = picture !== null && picture !== undefined && !picture.external && d.pack.has(picture.target)
  if (isFilm) d.filmBoxes.set(id, { box, hasPoster: hasPicture })
  if (!hasPicture) {
    if (!isFilm) d.warnings.add(WARN.linkedPicture)
    return []
  }
  if (!PICTURES.test(picture.target)) {
    d.warnings.add(WARN.drawing(picture.target.split('.').at(-1)!.toUpperCase()))
    return []
  }
  const crop = child(fill, 'srcRect')
  const side = (name: string) => (numberOf(crop?.attrs[name]) ?? 0) / 100_000
  const context: PaintContext = { theme: d.theme, scale: d.scale, relations: sheet.relations }
  const properties = child(shape, 'spPr')
  const behind: Fill | null = fillIn(properties, context) ?? null
  const line = lineIn(properties, child(shape, 'style'), context)
  const [outline] = outlinesOf(child(properties, 'prstGeom') ?? child(properties, 'custGeom'), box, shape, d).outlines
  const path = outline?.path ?? RECTANGLE.outlines[0]!.path
  return [
    ...(behind ? [{ kind: 'shape' as const, box, path, fill: behind, line: null, text: null }] : []),
    {
      kind: 'picture',
      box,
      part: picture.target,
      crop: { left: side('l'), top: side('t'), right: side('r'), bottom: side('b') },
      opacity: (numberOf(at(fill, 'blip', 'alphaModFix')?.attrs.amt) ?? 100_000) / 100_000,
      path,
    },
    ...(line ? [{ kind: 'shape' as const, box, path, fill: null, line, text: null }] : []),
  ]
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

function drawChart(chart: XmlNode, box: Transform, sheet: Sheet, d: Drawer): DrawnItem[] {
  const relation = sheet.relations.find((r) => r.id === chart.attrs['r:id'])
  const root = relation && d.pack.has(relation.target) ? d.pack.xml(relation.target) : null
  const context: PaintContext = { theme: d.theme, scale: d.scale, relations: [] }
  const read = root && readChart(root, d.theme, d.scale)
  if (!root || !read) {
    d.warnings.add(WARN.unknownChart)
    return []
  }
  const fill = fillIn(child(root, 'spPr'), context)
  return [
    ...(fill ? [{ kind: 'shape' as const, box, path: RECTANGLE.outlines[0]!.path, fill, line: null, text: null }] : []),
    { kind: 'chart', box, chart: read },
  ]
}

/**
 * The picture of an embedded object that older writers keep in a drawing of another kind.
 *
 * @returns name of the picture's part; null where there is none
 * @see ECMA-376, part 4, §14.1 (VML), §9.3.2.2 oleObj (spid)
 */
function previewOf(frame: XmlNode, sheet: Sheet, pack: Drawer['pack']): string | null {
  const [object] = below(frame, 'oleObj')
  const shape = object?.attrs.spid
  const drawing = sheet.relations.find((relation) => relation.type === 'vmlDrawing')?.target
  if (!shape || !drawing || !pack.has(drawing)) return null
  try {
    const found = below(pack.xml(drawing), 'shape').find(({ attrs }) => attrs.id === shape || attrs['o:spid'] === shape)
    const data = below(found, 'imagedata')[0]?.attrs
    const id = data?.['o:relid'] ?? data?.['r:id']
    const picture = pack.relations(drawing).find((relation) => relation.id === id)
    return picture && !picture.external && pack.has(picture.target) ? picture.target : null
  } catch {
    // such drawings are not always well-formed
    return null
  }
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
  if (chart) return drawChart(chart, box, sheet, d)
  const diagram = d.isInside ? null : diagramDrawing(child(data, 'relIds'), sheet, d)
  if (diagram) {
    // its shapes are placed from the frame's own corner
    const off = at(shape, 'xfrm', 'off')
    const x = frame.x + (numberOf(off?.attrs.x) ?? 0) * frame.scaleX
    const y = frame.y + (numberOf(off?.attrs.y) ?? 0) * frame.scaleY
    return drawTree(diagram.tree, { ...frame, x, y }, { ...sheet, relations: diagram.relations }, { ...d, isInside: true }, false)
  }
  // many writers keep a picture of it beside
  const pictures = below(data, 'pic')
  if (pictures.length > 0) return pictures.flatMap((picture) => drawPicture(picture, frame, sheet, d))
  const preview = previewOf(shape, sheet, d.pack)
  if (preview && PICTURES.test(preview))
    return [{ kind: 'picture', box, part: preview, crop: { left: 0, top: 0, right: 0, bottom: 0 } }]
  d.warnings.add(/diagram/.test(data.attrs.uri ?? '') ? WARN.diagram : WARN.embeddedObject)
  return []
}

/** A group stands, is turned and is mirrored as one. */
function drawGroup(shape: XmlNode, frame: Frame, sheet: Sheet, d: Drawer, skipPlaceholders: boolean): DrawnItem[] {
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
  const items = drawTree(shape, inner, sheet, d, skipPlaceholders)
  const box = transformOf(xfrm, frame, d.scale)
  if (!box || items.length === 0) return items
  const middle = { x: box.x + box.width / 2, y: box.y + box.height / 2 }
  return turned(mirrored(items, middle, box.flipX, box.flipY), middle, degrees(xfrm?.attrs.rot))
}

function drawOne(shape: XmlNode, frame: Frame, sheet: Sheet, d: Drawer, skipPlaceholders: boolean): DrawnItem[] {
  switch (shape.name) {
    case 'sp':
    case 'cxnSp':
      return drawShape(shape, frame, sheet, d)
    case 'pic':
      return drawPicture(shape, frame, sheet, d)
    case 'graphicFrame':
      return drawFrame(shape, frame, sheet, d)
    case 'grpSp':
      return drawGroup(shape, frame, sheet, d, skipPlaceholders)
    default:
      return []
  }
}

/** @param tree of shapes, of a sheet or a group; @param skipPlaceholders what stands on a layout for a slide to fill */
export function drawTree(
  tree: XmlNode | undefined,
  frame: Frame,
  sheet: Sheet,
  d: Drawer,
  skipPlaceholders: boolean,
): DrawnItem[] {
  return (tree?.children ?? []).flatMap((shape): DrawnItem[] => {
    const names = namesOf(shape)
    if (names?.attrs.hidden === '1') return []
    if (skipPlaceholders && placeholderOf(shape)) return []
    const items = drawOne(shape, frame, sheet, d, skipPlaceholders)
    const state = sheet.node === d.layers.slide.node ? d.state.get(names?.attrs.id ?? '') : undefined
    return state ? restated(items, state, d) : items
  })
}
