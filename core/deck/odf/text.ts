/** Text of an OpenDocument page: paragraphs with their styles and the signs of their lists. @see OpenDocument 1.3, part 3, §5, §16.29 to §16.31 */
import type { Paragraph, TextRun } from '../deck.ts'
import { faceOf } from '../faces.ts'
import { numeral } from '../numeral.ts'
import { below, child, numberOf, TEXT, type XmlNode } from '../xml.ts'
import { inches, property, type Styles } from './styles.ts'

export interface TextSetting {
  styles: Styles
  /** Pixels of an inch. */
  scale: number
  /** Of a field. */
  pageNumber: number
}

const USUAL_INCHES = 18 / 72

function runsOf(node: XmlNode, chains: readonly XmlNode[], d: TextSetting): TextRun[] {
  const own = [...chains, ...d.styles.chain('text', node.attrs['text:style-name'])]
  const said = (name: string) => property(own, 'text-properties', name)
  const percent = /^([\d.]+)%$/.exec(said('fo:font-size') ?? '')?.[1]
  const size = percent ? (Number(percent) / 100) * USUAL_INCHES : (inches(said('fo:font-size')) ?? USUAL_INCHES)
  // how far it is raised, and what it is made smaller by
  const [raise = '', smaller = '58%'] = (said('style:text-position') ?? '').split(/\s+/)
  const raised = { super: 0.33, sub: -0.33 }[raise] ?? (Number.parseFloat(raise) || 0) / 100
  const upper = said('fo:text-transform') === 'uppercase'
  const run = (text: string): TextRun => ({
    text: upper ? text.toUpperCase() : text,
    size: size * d.scale * (raised === 0 ? 1 : Number.parseFloat(smaller) / 100 || 0.58),
    bold: said('fo:font-weight') === 'bold' || Number(said('fo:font-weight')) >= 600,
    italic: said('fo:font-style') === 'italic',
    underline: (said('style:text-underline-style') ?? 'none') !== 'none',
    strike: (said('style:text-line-through-style') ?? 'none') !== 'none',
    colour: said('fo:color') ?? '#000000',
    face: faceOf(said('fo:font-family') ?? d.styles.family(said('style:font-name')) ?? said('style:font-name') ?? ''),
    raise: raised,
  })
  const runs = node.children.flatMap((c): TextRun[] => {
    if (c.name === TEXT) return c.text === '' ? [] : [run(c.text.replace(/\s+/g, ' '))]
    if (c.name === 'span' || c.name === 'a') return runsOf(c, own, d)
    if (c.name === 'line-break') return [run('\n')]
    if (c.name === 's') return [run(' '.repeat(Math.min(1000, numberOf(c.attrs['text:c']) ?? 1)))]
    if (c.name === 'page-number') return [run(String(d.pageNumber))]
    if (/^(date|time|page-name|author-name|title)$/.test(c.name)) return c.text ? [run(c.text)] : []
    return c.name === 'tab' ? [run('\t')] : []
  })
  return runs.length > 0 ? runs : [run('')]
}

/** Where a paragraph stands in lists. */
interface ListPlace {
  style: XmlNode | undefined
  level: number
  /** Of the paragraph's item at each level, from 1; null for what only goes on. */
  counters: number[]
  isFirst: boolean
}

/** Symbol fonts put pictures where letters are. @see the same table for DrawingML in `ooxml/text.ts` */
const PRIVATE = /[\ue000-\uf8ff]/

/** The sign before a paragraph, and the room that it and its text have. */
function signOf({ style, level, counters }: ListPlace, d: TextSetting) {
  const own = style?.children.find((one) => /^list-level-style-/.test(one.name) && numberOf(one.attrs['text:level']) === level)
  const properties = child(own, 'list-level-properties')
  const label = child(properties, 'list-level-label-alignment')
  const length = (node: XmlNode | undefined, name: string) => inches(node?.attrs[name])
  const space = length(properties, 'text:space-before')
  const width = length(properties, 'text:min-label-width')
  const left = length(label, 'fo:margin-left') ?? (space !== null || width !== null ? (space ?? 0) + (width ?? 0) : 0.3 * level)
  const indent = length(label, 'fo:text-indent') ?? -(width ?? 0.3)
  let sign = '•'
  if (own?.name === 'list-level-style-number') {
    const number = counters[level - 1] ?? 1
    const format = own.attrs['style:num-format'] ?? '1'
    const bare = numeral(/^[aA]$/.test(format) ? 'letters' : /^[iI]$/.test(format) ? 'roman' : 'digits', number)
    sign = `${own.attrs['style:num-prefix'] ?? ''}${/^[AI]$/.test(format) ? bare.toUpperCase() : bare}${own.attrs['style:num-suffix'] ?? ''}`
    if (format === '') sign = ''
  } else if (own?.name === 'list-level-style-bullet') sign = own.attrs['text:bullet-char'] ?? '•'
  const letters = child(own, 'text-properties')?.attrs
  const size = /^([\d.]+)%$/.exec(letters?.['fo:font-size'] ?? '')?.[1]
  return {
    sign: PRIVATE.test(sign) ? '•' : sign,
    left: left * d.scale,
    indent: indent * d.scale,
    size: size ? Number(size) / 100 : 1,
    colour: letters?.['fo:color'] ?? null,
  }
}

function paragraphOf(node: XmlNode, chains: readonly XmlNode[], place: ListPlace | null, d: TextSetting): Paragraph {
  const own = [...chains, ...d.styles.chain('paragraph', node.attrs['text:style-name'])]
  const said = (name: string) => property(own, 'paragraph-properties', name)
  const align = said('fo:text-align')
  const runs = runsOf(node, own, d)
  const hasText = runs.some((r) => r.text.trim() !== '')
  const sign = place && signOf(place, d)
  const high = said('fo:line-height')
  const exact = inches(high)
  return {
    runs,
    align: align === 'center' ? 'center' : align === 'end' || align === 'right' ? 'right' : 'left',
    left: sign?.left ?? (inches(said('fo:margin-left')) ?? 0) * d.scale,
    indent: sign?.indent ?? (inches(said('fo:text-indent')) ?? 0) * d.scale,
    bullet: sign && place?.isFirst && hasText && sign.sign !== '' ? sign.sign : null,
    bulletColour: sign?.colour ?? null,
    bulletSize: sign?.size ?? 1,
    lineSpacing: exact === null ? (Number.parseFloat(high ?? '') || 100) / 100 : -exact * d.scale,
    before: (inches(said('fo:margin-top')) ?? 0) * d.scale,
    after: (inches(said('fo:margin-bottom')) ?? 0) * d.scale,
    rightToLeft: said('style:writing-mode')?.startsWith('rl') ?? false,
  }
}

/** Of a presentation style the levels of an outline are styles of their own, named by their number. @see OpenDocument 1.3, part 3, §16.38 */
const levelStyles = (chains: readonly XmlNode[], level: number, d: TextSetting): XmlNode[] => {
  const name = chains.map((style) => style.attrs['style:name'] ?? '').findLast((one) => /-outline1$/.test(one))
  return name && level > 1 ? d.styles.chain('presentation', name.replace(/1$/, String(level))) : []
}

/** @param chains styles of what the text stands in; @param place of the list it is in */
export function paragraphsOf(
  box: XmlNode,
  chains: readonly XmlNode[],
  d: TextSetting,
  place: ListPlace | null = null,
): Paragraph[] {
  return box.children.flatMap((node): Paragraph[] => {
    if (node.name === 'list') {
      const level = (place?.level ?? 0) + 1
      const style = d.styles.list(node.attrs['text:style-name']) ?? place?.style ?? d.styles.listIn(chains)
      let count = 0
      return node.children
        .filter(({ name }) => name === 'list-item' || name === 'list-header')
        .flatMap((item) => {
          count = numberOf(item.attrs['text:start-value']) ?? count + 1
          let isFirst = item.name === 'list-item'
          const own = [...chains, ...levelStyles(chains, level, d)]
          return item.children.flatMap((inner) => {
            const counters = [...(place?.counters.slice(0, level - 1) ?? []), count]
            const found = paragraphsOf({ ...item, children: [inner] }, own, d, { style, level, counters, isFirst })
            if (found.length > 0) isFirst = false
            return found
          })
        })
    }
    return node.name === 'p' || node.name === 'h' ? [paragraphOf(node, chains, place, d)] : []
  })
}

const textOf = (node: XmlNode): string =>
  node.children
    .map((c) => (c.name === TEXT ? c.text : c.name === 's' ? ' ' : c.name === 'line-break' ? '\n' : textOf(c)))
    .join('')

/** Plain text of all that is in a node, a line a paragraph. */
export const plain = (node: XmlNode | undefined): string =>
  [...below(node, 'p'), ...below(node, 'h')]
    .map((p) => textOf(p))
    .filter(Boolean)
    .join('\n')
    .trim()

/** The language of its usual text. @see OpenDocument 1.3, part 3, §20.199 fo:language, §20.188 fo:country */
export function languagesOf(styles: XmlNode): Map<string, number> {
  const letters = new Map<string, number>()
  for (const style of below(styles, 'default-style')) {
    const { 'fo:language': language, 'fo:country': country } = child(style, 'text-properties')?.attrs ?? {}
    if (!language || language === 'none') continue
    const tag = country && country !== 'none' ? `${language}-${country}` : language
    letters.set(tag, (letters.get(tag) ?? 0) + 1)
  }
  return letters
}

export const hasWords = (paragraphs: readonly Paragraph[]) => paragraphs.some((p) => p.runs.some((r) => r.text.trim() !== ''))
