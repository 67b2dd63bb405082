/** Styles of an OpenDocument file, its lengths, and the size of its pages. @see OASIS OpenDocument 1.3, part 3, §16 and §18.3.18 */

import { below, child, type XmlNode } from '../xml.ts'

const INCHES: Record<string, number> = { cm: 1 / 2.54, mm: 1 / 25.4, in: 1, pt: 1 / 72, pc: 1 / 6, px: 1 / 96 }

/** A length in inches; null for none. @see OpenDocument 1.3, part 3, §18.3.18 */
export function inches(text: string | undefined): number | null {
  const match = /^(-?[\d.]+)(cm|mm|in|pt|pc|px)$/.exec(text?.trim() ?? '')
  return match ? Number(match[1]) * INCHES[match[2]!]! : null
}

export interface Styles {
  /** Properties of a style with those it inherits, the nearest last. */
  chain(family: string, name: string | undefined): XmlNode[]
  /** The family of letters that a font face is; undefined for a name that is not declared. @see OpenDocument 1.3, part 3, §16.23 */
  family(face: string | undefined): string | undefined
  /** A style of lists by its name. */
  list(name: string | undefined): XmlNode | undefined
  /** The style of lists that a style of shapes brings with it. */
  listIn(chain: readonly XmlNode[]): XmlNode | undefined
  /** A gradient or picture that fills shapes, by its name. */
  filling(name: string | undefined): XmlNode | undefined
}

export function stylesOf(roots: readonly XmlNode[]): Styles {
  const byName = new Map<string, XmlNode>()
  const defaults = new Map<string, XmlNode>()
  const families = new Map<string, string>()
  const lists = new Map<string, XmlNode>()
  const fillings = new Map<string, XmlNode>()
  for (const root of roots) {
    for (const style of below(root, 'style')) byName.set(`${style.attrs['style:family']} ${style.attrs['style:name']}`, style)
    for (const style of below(root, 'list-style')) if (style.attrs['style:name']) lists.set(style.attrs['style:name'], style)
    for (const filling of [...below(root, 'gradient'), ...below(root, 'fill-image')])
      if (filling.attrs['draw:name']) fillings.set(filling.attrs['draw:name'], filling)
    for (const { attrs } of below(root, 'font-face'))
      if (attrs['style:name'] && attrs['svg:font-family']) families.set(attrs['style:name'], attrs['svg:font-family'])
    for (const style of below(root, 'default-style')) defaults.set(style.attrs['style:family'] ?? '', style)
  }
  return {
    family: (face) => families.get(face ?? ''),
    list: (name) => lists.get(name ?? ''),
    listIn: (chain) => chain.flatMap((style) => child(child(style, 'graphic-properties'), 'list-style') ?? []).at(-1),
    filling: (name) => fillings.get(name ?? ''),
    chain(family, name) {
      const found: XmlNode[] = []
      for (let style = name ? byName.get(`${family} ${name}`) : undefined, depth = 0; style && depth < 20; depth++) {
        found.unshift(style)
        const parent = style.attrs['style:parent-style-name']
        style = parent ? byName.get(`${family} ${parent}`) : undefined
      }
      const base = defaults.get(family)
      return base ? [base, ...found] : found
    },
  }
}

/** One property by the nearest style that says it. */
export function property(chain: readonly XmlNode[], group: string, name: string): string | undefined {
  for (let i = chain.length - 1; i >= 0; i--) {
    const value = child(chain[i], group)?.attrs[name]
    if (value !== undefined) return value
  }
  return undefined
}

/** A slide without a size of its own is as wide as most are. */
const USUAL_SIZE = { width: 11.02, height: 6.2 }

/** The size of a master's pages, inches: a file has other layouts beside it, as of what is handed out. @see OpenDocument 1.3, part 3, §16.5, §16.9 */
export function pageSizes(styles: XmlNode | null): (master: XmlNode | undefined) => typeof USUAL_SIZE {
  const [usual] = below(styles ?? undefined, 'master-page')
  const layouts = new Map(below(styles ?? undefined, 'page-layout').map((layout) => [layout.attrs['style:name'], layout]))
  return (master = usual) => {
    const { 'fo:page-width': wide, 'fo:page-height': high } =
      child(layouts.get(master?.attrs['style:page-layout-name']), 'page-layout-properties')?.attrs ?? {}
    const [width, height] = [inches(wide), inches(high)]
    return width && height ? { width, height } : USUAL_SIZE
  }
}
