/** Colours of DrawingML: a theme's, those written out, and what is done to them. @see ECMA-376, part 1, §20.1.2.3 */
import { at, child, type XmlNode } from '../xml.ts'

export interface Theme {
  /** By their names in the theme: dk1, lt1, accent1 … as RRGGBB. */
  colours: Map<string, string>
  /** What a master calls them: bg1, tx1 … */
  map: Map<string, string>
  major: string
  minor: string
}

/** The few that decks name by word; others are black. */
const NAMED: Record<string, string> = {
  black: '000000',
  white: 'FFFFFF',
  red: 'FF0000',
  green: '008000',
  blue: '0000FF',
  yellow: 'FFFF00',
  orange: 'FFA500',
  gray: '808080',
  grey: '808080',
  darkGray: 'A9A9A9',
  lightGray: 'D3D3D3',
}

export function themeOf(theme: XmlNode | null, map: Map<string, string>): Theme {
  const colours = new Map<string, string>()
  for (const slot of at(theme, 'themeElements', 'clrScheme')?.children ?? []) {
    const colour = slot.children.find((c) => /Clr$/.test(c.name))
    const hex = colour?.attrs.lastClr ?? colour?.attrs.val
    if (hex && /^[0-9a-fA-F]{6}$/.test(hex)) colours.set(slot.name, hex)
  }
  const font = (kind: string) => at(theme, 'themeElements', 'fontScheme', kind, 'latin')?.attrs.typeface ?? ''
  return { colours, map, major: font('majorFont'), minor: font('minorFont') }
}

const clamp = (v: number) => Math.min(1, Math.max(0, v))

function toHsl([r, g, b]: [number, number, number]): [number, number, number] {
  const [most, least] = [Math.max(r, g, b), Math.min(r, g, b)]
  const l = (most + least) / 2
  const d = most - least
  if (d === 0) return [0, 0, l]
  const s = l > 0.5 ? d / (2 - most - least) : d / (most + least)
  const h = most === r ? (g - b) / d + (g < b ? 6 : 0) : most === g ? (b - r) / d + 2 : (r - g) / d + 4
  return [h / 6, s, l]
}

function fromHsl([h, s, l]: [number, number, number]): [number, number, number] {
  if (s === 0) return [l, l, l]
  const q = l < 0.5 ? l * (1 + s) : l + s - l * s
  const p = 2 * l - q
  const part = (t: number) => {
    const u = ((t % 1) + 1) % 1
    if (u < 1 / 6) return p + (q - p) * 6 * u
    if (u < 1 / 2) return q
    return u < 2 / 3 ? p + (q - p) * (2 / 3 - u) * 6 : p
  }
  return [part(h + 1 / 3), part(h), part(h - 1 / 3)]
}

/**
 * @param parent of the colour's own node, such as `solidFill`
 * @param placeholder what `phClr` stands for, as CSS; null for none
 * @returns as CSS has it; null when there is none
 */
export function colourIn(parent: XmlNode | undefined, theme: Theme, placeholder: string | null = null): string | null {
  const node = parent?.children.find((c) => /Clr$/.test(c.name))
  if (!node) return null
  let hex: string | undefined
  let alpha = 1
  switch (node.name) {
    case 'srgbClr':
      hex = node.attrs.val
      break
    case 'sysClr':
      hex = node.attrs.lastClr ?? (node.attrs.val === 'window' ? 'FFFFFF' : '000000')
      break
    case 'prstClr':
      hex = NAMED[node.attrs.val ?? ''] ?? '000000'
      break
    case 'schemeClr': {
      const name = node.attrs.val ?? ''
      if (name === 'phClr') {
        if (placeholder === null) return null
        const known = /^rgba\((\d+), (\d+), (\d+), ([\d.]+)\)$/.exec(placeholder)!
        hex = known
          .slice(1, 4)
          .map((v) => Number(v).toString(16).padStart(2, '0'))
          .join('')
        alpha = Number(known[4])
      } else hex = theme.colours.get(theme.map.get(name) ?? name)
      break
    }
    case 'scrgbClr':
      hex = ['r', 'g', 'b']
        .map((k) =>
          Math.round(clamp(Number(node.attrs[k] ?? 0) / 100_000) ** (1 / 2.2) * 255)
            .toString(16)
            .padStart(2, '0'),
        )
        .join('')
      break
  }
  if (!hex || !/^[0-9a-fA-F]{6}$/.test(hex)) hex = '000000'
  let rgb = [0, 2, 4].map((i) => Number.parseInt(hex!.slice(i, i + 2), 16) / 255) as [number, number, number]
  for (const change of node.children) {
    const value = Number(change.attrs.val ?? 0) / 100_000
    const hsl = toHsl(rgb)
    switch (change.name) {
      case 'alpha':
        alpha = clamp(value)
        break
      case 'lumMod':
        rgb = fromHsl([hsl[0], hsl[1], clamp(hsl[2] * value)])
        break
      case 'lumOff':
        rgb = fromHsl([hsl[0], hsl[1], clamp(hsl[2] + value)])
        break
      case 'satMod':
        rgb = fromHsl([hsl[0], clamp(hsl[1] * value), hsl[2]])
        break
      case 'tint':
        rgb = rgb.map((v) => clamp(1 - (1 - v) * value)) as typeof rgb
        break
      case 'shade':
        rgb = rgb.map((v) => clamp(v * value)) as typeof rgb
        break
    }
  }
  return `rgba(${rgb.map((v) => Math.round(v * 255)).join(', ')}, ${Number(alpha.toFixed(3))})`
}

/** The map of a master, or of a slide that overrides it. */
export function colourMap(node: XmlNode | undefined): Map<string, string> {
  return new Map(Object.entries(node?.attrs ?? {}).filter(([name]) => !name.startsWith('xmlns')))
}

export const overriddenMap = (part: XmlNode): Map<string, string> | null => {
  const node = child(child(part, 'clrMapOvr'), 'overrideClrMapping')
  return node ? colourMap(node) : null
}
