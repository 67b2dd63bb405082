/** Documents that lie in an OpenDocument presentation: tables of a spreadsheet, pages of text, drawings. @see OpenDocument 1.3, part 3, §10.4.6 draw:object */
import { at, below, children, numberOf, parseXml, type XmlNode } from '../xml.ts'
import { type Styles, stylesOf } from './styles.ts'
import { plain } from './text.ts'

export type EmbeddedDocument =
  /** A table as far as anything is written in it. */
  | { kind: 'table'; table: XmlNode; styles: Styles; isWhole: boolean }
  /** What has paragraphs in it. */
  | { kind: 'text'; text: XmlNode; styles: Styles }
  | { kind: 'page'; page: XmlNode; styles: Styles }

/** More of a table nobody reads on a slide. */
const MOST_ROWS = 60
/** What is repeated oftener stands for all that is empty. */
const MOST_REPEATED = 60

/** Rows or cells, each as often as it says. */
const spreadOut = (nodes: readonly XmlNode[], repeated: string): XmlNode[] =>
  nodes.flatMap((node): XmlNode[] => {
    const { [repeated]: times, ...attrs } = node.attrs
    return Array.from({ length: Math.min(MOST_REPEATED, numberOf(times) ?? 1) }, () => ({ ...node, attrs }))
  })

/** The used part of a sheet: its columns and rows go on to the end of what is written. */
function usedPart(table: XmlNode): { table: XmlNode; isWhole: boolean } | null {
  const all = spreadOut(below(table, 'table-row'), 'table:number-rows-repeated')
  const high = all.findLastIndex((row) => plain(row) !== '') + 1
  const rows = all.slice(0, Math.min(high, MOST_ROWS))
  const grid = rows.map((row) => spreadOut(children(row, 'table-cell'), 'table:number-columns-repeated'))
  const wide = Math.max(0, ...grid.map((cells) => cells.findLastIndex((cell) => plain(cell) !== '') + 1))
  if (wide === 0) return null
  const used = grid.map((cells, r): XmlNode => ({ ...rows[r]!, children: cells.slice(0, wide) }))
  return { table: { ...table, children: used }, isWhole: high <= MOST_ROWS }
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
  if (used) return { kind: 'table', ...used, styles }
  const text = at(body, 'text')
  if (text && plain(text) !== '') return { kind: 'text', text, styles }
  const page = at(body, 'drawing', 'page') ?? at(body, 'presentation', 'page')
  return page ? { kind: 'page', page, styles } : null
}
