/** Documents that lie in an OpenDocument presentation: tables of a spreadsheet, pages of text, drawings. @see OpenDocument 1.3, part 3, §10.4.6 draw:object */
import { at, below, children, numberOf, parseXml, type XmlNode } from '../xml.ts'
import { type Styles, stylesOf } from './styles.ts'
import { plain } from './text.ts'

export type EmbeddedDocument =
  /** A table as far as anything is written in it. */
  | { kind: 'table'; table: XmlNode; styles: Styles }
  /** What has paragraphs in it. */
  | { kind: 'text'; text: XmlNode; styles: Styles }
  | { kind: 'page'; page: XmlNode; styles: Styles }

/** More of a table nobody reads on a slide. */
const [MOST_ROWS, MOST_COLUMNS] = [60, 30]

/** The used part of a sheet: its columns and rows go on to the end of what is written. */
function usedPart(table: XmlNode): XmlNode | null {
  const rows = below(table, 'table-row').slice(0, MOST_ROWS)
  const cellsOf = (row: XmlNode) =>
    children(row, 'table-cell').flatMap((cell): XmlNode[] => {
      const times = Math.min(MOST_COLUMNS, numberOf(cell.attrs['table:number-columns-repeated']) ?? 1)
      const { 'table:number-columns-repeated': _, ...attrs } = cell.attrs
      return Array.from({ length: times }, () => ({ ...cell, attrs }))
    })
  const grid = rows.map(cellsOf)
  const wide = Math.max(0, ...grid.map((cells) => cells.findLastIndex((cell) => plain(cell) !== '') + 1))
  const high = grid.findLastIndex((cells) => cells.some((cell) => plain(cell) !== '')) + 1
  if (wide === 0 || high === 0) return null
  const used = grid.slice(0, high).map((cells, r): XmlNode => ({ ...rows[r]!, children: cells.slice(0, wide) }))
  return { ...table, children: used }
}

/** @param object `draw:object` @returns null where it is not in the file, or of another kind */
export function embeddedIn(object: XmlNode | undefined, files: ReadonlyMap<string, Uint8Array>): EmbeddedDocument | null {
  const folder = object?.attrs['xlink:href']?.replace(/^\.\//, '').replace(/\/$/, '')
  const content = folder ? files.get(`${folder}/content.xml`) : undefined
  if (!content) return null
  const root = parseXml(content, `${folder}/content.xml`)
  const styleFile = files.get(`${folder}/styles.xml`)
  const styles = stylesOf([...(styleFile ? [parseXml(styleFile, `${folder}/styles.xml`)] : []), root])
  const body = at(root, 'body')
  const [table] = children(at(body, 'spreadsheet'), 'table')
  const used = table && usedPart(table)
  if (used) return { kind: 'table', table: used, styles }
  const text = at(body, 'text')
  if (text && plain(text) !== '') return { kind: 'text', text, styles }
  const page = at(body, 'drawing', 'page') ?? at(body, 'presentation', 'page')
  return page ? { kind: 'page', page, styles } : null
}
