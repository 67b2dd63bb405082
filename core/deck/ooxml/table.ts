/** Tables of a slide, with the look that the deck's table styles give them. @see ECMA-376, part 1, §21.1.3 (tables), §20.1.4.2 (table styles) */
import type { DrawnItem, Fill, Line, TextBox, Transform } from '../deck.ts'
import { at, child, children, numberOf, type XmlNode } from '../xml.ts'
import { colourIn } from './colours.ts'
import { RECTANGLE } from './geometry/outline.ts'
import type { Drawer, Sheet } from './layers.ts'
import { fillIn, lineIn, type PaintContext } from './paint.ts'
import { fontStyle, textBox } from './text.ts'

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

/** Where a cell stands in its table. */
interface Place {
  row: number
  column: number
  rows: number
  columns: number
}

type Flags = Readonly<Record<string, string>>
const isOn = (flags: Flags, name: string) => flags[name] === '1' || flags[name] === 'true'

/** Parts of a style that a cell takes, the strongest last. @see ECMA-376, part 1, §20.1.4.2.26, tblStyle */
function partsOf(flags: Flags, { row, column, rows, columns }: Place): string[] {
  const [top, bottom] = [isOn(flags, 'firstRow') && row === 0, isOn(flags, 'lastRow') && row === rows - 1]
  const [left, right] = [isOn(flags, 'firstCol') && column === 0, isOn(flags, 'lastCol') && column === columns - 1]
  const bandRow = row - (isOn(flags, 'firstRow') ? 1 : 0)
  const bandColumn = column - (isOn(flags, 'firstCol') ? 1 : 0)
  return [
    'wholeTbl',
    ...(isOn(flags, 'bandCol') && !left && !right ? [bandColumn % 2 === 0 ? 'band1V' : 'band2V'] : []),
    ...(isOn(flags, 'bandRow') && !top && !bottom ? [bandRow % 2 === 0 ? 'band1H' : 'band2H'] : []),
    ...(right ? ['lastCol'] : []),
    ...(left ? ['firstCol'] : []),
    ...(bottom ? ['lastRow'] : []),
    ...(top ? ['firstRow'] : []),
  ]
}

/** What a style says of one cell. */
interface CellStyle {
  fill: Fill | null | undefined
  letters: XmlNode | undefined
  borders: Record<Side, Line | null | undefined>
}

const SIDES = ['left', 'right', 'top', 'bottom'] as const
type Side = (typeof SIDES)[number]
const OWN_LINE: Record<Side, string> = { left: 'lnL', right: 'lnR', top: 'lnT', bottom: 'lnB' }

/** Between cells a style has lines of their own. */
function borderName(side: Side, { row, column, rows, columns }: Place): string {
  if (side === 'top') return row === 0 ? 'top' : 'insideH'
  if (side === 'bottom') return row === rows - 1 ? 'bottom' : 'insideH'
  if (side === 'left') return column === 0 ? 'left' : 'insideV'
  return column === columns - 1 ? 'right' : 'insideV'
}

/** A line that is said or said to be none; undefined where nothing is said. @param holder has `ln` or `lnRef` in it */
function styledLine(holder: XmlNode | undefined, context: PaintContext): Line | null | undefined {
  if (!holder) return undefined
  if (!child(holder, 'ln')) {
    const reference = child(holder, 'lnRef')
    if (!reference) return undefined
    return lineIn(undefined, { name: 'style', attrs: {}, children: [reference], text: '' }, context)
  }
  return lineIn(holder, undefined, context)
}

/** The letters of a style, as a list style that has them on every level. @see ECMA-376, part 1, §20.1.4.2.30, tcTxStyle */
function lettersOf(style: XmlNode | undefined): XmlNode | undefined {
  if (!style) return undefined
  const colour = style.children.find((c) => /Clr$/.test(c.name))
  const attrs: Record<string, string> = {}
  if (style.attrs.b === 'on') attrs.b = '1'
  if (style.attrs.i === 'on') attrs.i = '1'
  return fontStyle(
    { name: 'fontRef', attrs: child(style, 'fontRef')?.attrs ?? {}, children: colour ? [colour] : [], text: '' },
    attrs,
  )
}

function styleOf(style: XmlNode | undefined, parts: readonly string[], place: Place, context: PaintContext): CellStyle {
  const found: CellStyle = {
    fill: undefined,
    letters: undefined,
    borders: { left: undefined, right: undefined, top: undefined, bottom: undefined },
  }
  for (const name of parts) {
    const part = child(style, name)
    const cell = child(part, 'tcStyle')
    const fill = fillIn(child(cell, 'fill'), context)
    const reference = child(cell, 'fillRef')
    const colour = reference ? colourIn(reference, context.theme) : null
    if (fill !== undefined) found.fill = fill
    else if (colour) found.fill = { kind: 'solid', colour }
    found.letters = lettersOf(child(part, 'tcTxStyle')) ?? found.letters
    for (const side of SIDES) {
      const line = styledLine(at(cell, 'tcBdr', borderName(side, place)) ?? at(cell, 'tcBdr', side), context)
      if (line !== undefined) found.borders[side] = line
    }
  }
  return found
}

/** Of a table whose style is not in the deck: a header in the first accent, bands, and thin lines. */
function unknownStyle(flags: Flags, { row }: Place, d: Drawer): CellStyle {
  const thin: Line = { colour: 'rgba(160, 165, 165, 0.8)', width: 1.5, dash: [], head: false, tail: false }
  const header = isOn(flags, 'firstRow') && row === 0
  const accent = `#${d.theme.colours.get('accent1') ?? '17594A'}`
  const white: XmlNode = { name: 'srgbClr', attrs: { val: 'FFFFFF' }, children: [], text: '' }
  return {
    fill: header
      ? { kind: 'solid', colour: accent }
      : isOn(flags, 'bandRow') && row % 2 === 1
        ? { kind: 'solid', colour: 'rgba(120, 130, 130, 0.14)' }
        : undefined,
    letters: header ? fontStyle({ name: 'fontRef', attrs: {}, children: [white], text: '' }, { b: '1' }) : undefined,
    borders: { left: thin, right: thin, top: thin, bottom: thin },
  }
}

function cellText(cell: XmlNode, style: CellStyle, d: Drawer): TextBox | null {
  const body = child(cell, 'txBody')
  if (!body) return null
  const properties = child(cell, 'tcPr')
  const { marL, marR, marT, marB, anchor, vert } = properties?.attrs ?? {}
  const attrs = Object.fromEntries(
    Object.entries({ lIns: marL, rIns: marR, tIns: marT, bIns: marB, anchor, vert }).filter(
      (pair): pair is [string, string] => pair[1] !== undefined,
    ),
  )
  return textBox(body, [{ name: 'bodyPr', attrs, children: [], text: '' }], {
    theme: d.theme,
    scale: d.scale,
    styles: [d.deckStyle, at(d.master, 'txStyles', 'otherStyle'), style.letters, child(body, 'lstStyle')],
    colour: `#${d.theme.colours.get(d.theme.map.get('tx1') ?? 'dk1') ?? '000000'}`,
    slideNumber: d.slideNumber,
  })
}

const EDGES: Record<Side, (box: Transform) => Transform> = {
  left: (box) => ({ ...box, width: 0 }),
  right: (box) => ({ ...box, x: box.x + box.width, width: 0 }),
  top: (box) => ({ ...box, height: 0 }),
  bottom: (box) => ({ ...box, y: box.y + box.height, height: 0 }),
}
const EDGE = [
  { to: 'move' as const, x: 0, y: 0 },
  { to: 'line' as const, x: 1, y: 1 },
]

interface Cell {
  node: XmlNode
  place: Place
  rowSpan: number
  columnSpan: number
  style: CellStyle
  text: TextBox | null
}

function cellsOf(table: XmlNode, sheet: Sheet, d: Drawer): { rows: XmlNode[]; columns: number[]; cells: Cell[] } {
  const context: PaintContext = { theme: d.theme, scale: d.scale, relations: sheet.relations }
  const columns = children(child(table, 'tblGrid'), 'gridCol').map((c) => (numberOf(c.attrs.w) ?? 0) * d.scale)
  const properties = child(table, 'tblPr')
  const flags = properties?.attrs ?? {}
  const styleId = child(properties, 'tableStyleId')?.text.trim()
  const style =
    child(properties, 'tblStyle') ??
    children(d.tableStyles, 'tblStyle').find((one) => one.attrs.styleId === styleId && one.children.length > 0)
  const rows = children(table, 'tr')
  const cells = rows.flatMap((row, r) =>
    children(row, 'tc').flatMap((node, c): Cell[] => {
      if (node.attrs.hMerge === '1' || node.attrs.vMerge === '1') return []
      const place = { row: r, column: c, rows: rows.length, columns: columns.length }
      const look = style || !styleId ? styleOf(style, partsOf(flags, place), place, context) : unknownStyle(flags, place, d)
      return [
        {
          node,
          place,
          rowSpan: Math.max(1, Number(node.attrs.rowSpan ?? 1) || 1),
          columnSpan: Math.max(1, Number(node.attrs.gridSpan ?? 1) || 1),
          style: look,
          text: cellText(node, look, d),
        },
      ]
    }),
  )
  return { rows, columns, cells }
}

const sum = (list: readonly number[]) => list.reduce((a, b) => a + b, 0)

export function drawTable(table: XmlNode, box: Transform, sheet: Sheet, d: Drawer): DrawnItem[] {
  const context: PaintContext = { theme: d.theme, scale: d.scale, relations: sheet.relations }
  const { rows, columns, cells } = cellsOf(table, sheet, d)
  const heights = rows.map((row) => (numberOf(row.attrs.h) ?? 0) * d.scale)
  // a row is as high as its text needs, whatever is written beside it
  for (const { place, rowSpan, columnSpan, text } of cells)
    if (text && rowSpan === 1) {
      const width = sum(columns.slice(place.column, place.column + columnSpan))
      heights[place.row] = Math.max(heights[place.row]!, textHeight(text, width))
    }
  const [fills, lines]: [DrawnItem[], DrawnItem[]] = [[], []]
  for (const { node, place, rowSpan, columnSpan, style, text } of cells) {
    const cell: Transform = {
      x: box.x + sum(columns.slice(0, place.column)),
      y: box.y + sum(heights.slice(0, place.row)),
      width: sum(columns.slice(place.column, place.column + columnSpan)),
      height: sum(heights.slice(place.row, place.row + rowSpan)),
      rotation: 0,
      flipX: false,
      flipY: false,
    }
    const properties = child(node, 'tcPr')
    const own = fillIn(properties, context)
    fills.push({
      kind: 'shape',
      box: cell,
      path: RECTANGLE.outlines[0]!.path,
      fill: own === undefined ? (style.fill ?? null) : own,
      line: null,
      text,
    })
    for (const side of SIDES) {
      const said = child(properties, OWN_LINE[side])
      const line = said
        ? lineIn({ name: 'tcPr', attrs: {}, children: [{ ...said, name: 'ln' }], text: '' }, undefined, context)
        : style.borders[side]
      if (line) lines.push({ kind: 'shape', box: EDGES[side](cell), path: EDGE, fill: null, line, text: null })
    }
  }
  return [...fills, ...lines]
}
