/** Fills and lines of DrawingML. @see ECMA-376, part 1, §20.1.8 */
import type { Fill, Line, Shadow } from '../deck.ts'
import { at, child, children, numberOf, type XmlNode } from '../xml.ts'
import { colourIn, type Theme } from './colours.ts'
import type { Relation } from './package.ts'

export interface PaintContext {
  theme: Theme
  /** Pixels of an English Metric Unit. */
  scale: number
  relations: readonly Relation[]
}

const DASHES: Record<string, number[]> = {
  dash: [4, 3],
  dashDot: [4, 3, 1, 3],
  dot: [1, 3],
  lgDash: [8, 3],
  lgDashDot: [8, 3, 1, 3],
  sysDash: [3, 1],
  sysDot: [1, 1],
  sysDashDot: [3, 1, 1, 1],
}

export function pictureIn(blip: XmlNode | undefined, relations: readonly Relation[]): Relation | null {
  const id = blip?.attrs['r:embed'] ?? blip?.attrs['r:link']
  return relations.find((relation) => relation.id === id) ?? null
}

/** @returns undefined when nothing is said, null when there is to be none */
export function fillIn(
  parent: XmlNode | undefined,
  context: PaintContext,
  placeholder: string | null = null,
): Fill | null | undefined {
  const { theme, relations } = context
  for (const node of parent?.children ?? []) {
    switch (node.name) {
      case 'noFill':
        return null
      case 'solidFill': {
        const colour = colourIn(node, theme, placeholder)
        return colour ? { kind: 'solid', colour } : null
      }
      case 'gradFill': {
        const stops = children(child(node, 'gsLst'), 'gs').flatMap((gs) => {
          const colour = colourIn(gs, theme, placeholder)
          return colour ? [{ at: Math.min(1, Math.max(0, (numberOf(gs.attrs.pos) ?? 0) / 100_000)), colour }] : []
        })
        if (stops.length === 0) return null
        stops.sort((a, b) => a.at - b.at)
        const path = child(node, 'path')
        // ECMA-376, part 1, §20.1.8.46: from the edge of what it is filled to, outwards
        const inner = child(path, 'fillToRect')?.attrs
        const middle = (from: string | undefined, to: string | undefined) =>
          ((numberOf(from) ?? 0) + 100_000 - (numberOf(to) ?? 0)) / 200_000
        return {
          kind: 'gradient',
          angle: (numberOf(child(node, 'lin')?.attrs.ang) ?? 5_400_000) / 60_000,
          stops,
          ...(path ? { radial: { x: middle(inner?.l, inner?.r), y: middle(inner?.t, inner?.b) } } : {}),
        }
      }
      case 'blipFill': {
        const picture = pictureIn(child(node, 'blip'), relations)
        if (!picture || picture.external) return null
        const tile = child(node, 'tile')
        const share = (name: string) => (numberOf(tile?.attrs[name]) ?? 100_000) / 100_000
        // §20.1.8.58: tiles are as large as the picture, at 96 pixels an inch, by their scale
        const pixel = (914_400 / 96) * context.scale * share('sx')
        return { kind: 'picture', part: picture.target, ...(tile ? { tile: { width: null, height: null, pixel } } : {}) }
      }
      case 'pattFill': {
        const [front, back] = ['fgClr', 'bgClr'].map((name) => colourIn(child(node, name), theme, placeholder))
        const colour = front && back ? mixed(front, back, inkOf(node.attrs.prst ?? '')) : (front ?? back)
        // as it is seen from afar
        return colour ? { kind: 'solid', colour } : null
      }
    }
  }
  return undefined
}

/** @param style of the shape: what its theme says when the shape says nothing */
export function lineIn(properties: XmlNode | undefined, style: XmlNode | undefined, context: PaintContext): Line | null {
  const node = child(properties, 'ln')
  const styled = child(style, 'lnRef')
  const themed = styled && styled.attrs.idx !== '0' ? colourIn(styled, context.theme) : null
  const fill = fillIn(node, context)
  if (fill === null || (fill === undefined && themed === null)) return null
  const colour =
    fill?.kind === 'solid' ? fill.colour : fill?.kind === 'gradient' ? fill.stops[0]!.colour : (themed ?? 'rgba(0, 0, 0, 1)')
  const width = Math.max(1, (numberOf(node?.attrs.w) ?? 9525 * Number(styled?.attrs.idx ?? 1)) * context.scale)
  const ends = (name: string) => (child(node, name)?.attrs.type ?? 'none') !== 'none'
  const dash = DASHES[child(node, 'prstDash')?.attrs.val ?? ''] ?? []
  return { colour, width, dash: dash.map((d) => d * width), head: ends('headEnd'), tail: ends('tailEnd') }
}

/** @see ECMA-376, part 1, §20.1.8.45 outerShdw; other effects are left out */
export function shadowIn(properties: XmlNode | undefined, context: PaintContext): Shadow | null {
  const node = at(properties, 'effectLst', 'outerShdw')
  const colour = node && colourIn(node, context.theme)
  if (!colour) return null
  const px = (name: string) => (numberOf(node.attrs[name]) ?? 0) * context.scale
  const direction = (((numberOf(node.attrs.dir) ?? 0) / 60_000) * Math.PI) / 180
  const distance = px('dist')
  return { x: distance * Math.cos(direction), y: distance * Math.sin(direction), blur: px('blurRad'), colour }
}

/** How much of a pattern is its foreground, for those whose name says it; of lines and grids about a third. @see §20.1.10.51 ST_PresetPatternVal */
const inkOf = (pattern: string) =>
  /^pct\d+$/.test(pattern) ? Number(pattern.slice(3)) / 100 : /^(lt|sm)/.test(pattern) ? 0.2 : 0.35

function mixed(front: string, back: string, share: number): string {
  const parts = (colour: string) => (colour.match(/[\d.]+/g) ?? []).map(Number)
  const [a, b] = [parts(front), parts(back)]
  const [r, g, blue] = [0, 1, 2].map((i) => Math.round((a[i] ?? 0) * share + (b[i] ?? 255) * (1 - share)))
  return `rgba(${r}, ${g}, ${blue}, ${Math.max(a[3] ?? 1, b[3] ?? 1)})`
}

export function shapeFill(properties: XmlNode | undefined, style: XmlNode | undefined, context: PaintContext): Fill | null {
  const own = fillIn(properties, context)
  if (own !== undefined) return own
  const styled = child(style, 'fillRef')
  const colour = styled && styled.attrs.idx !== '0' ? colourIn(styled, context.theme) : null
  return colour ? { kind: 'solid', colour } : null
}

/** The background of a slide, layout or master; null when it has none of its own. */
export function backgroundOf(part: XmlNode, context: PaintContext): Fill | null {
  const background = at(part, 'cSld', 'bg')
  const own = fillIn(child(background, 'bgPr'), context)
  if (own) return own
  const colour = colourIn(child(background, 'bgRef'), context.theme)
  return colour ? { kind: 'solid', colour } : null
}
