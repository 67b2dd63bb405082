/** The layers of a slide, its layout and its master, and what a shape takes from its like in those below. @see ECMA-376, part 1, §19.3.1 */
import type { FoundFilm, Transform } from '../deck.ts'
import type { SlideState } from '../steps/steps.ts'
import type { Warnings } from '../warnings.ts'
import { at, child, children, numberOf, type XmlNode } from '../xml.ts'
import type { Theme } from './colours.ts'
import type { OfficePackage, Relation } from './package.ts'

/** A part with its relations: the slide, its layout, its master. */
export interface Sheet {
  node: XmlNode
  relations: Relation[]
}

export interface Drawer {
  pack: OfficePackage
  theme: Theme
  scale: number
  slideNumber: number
  /** Styles of text by the kind of placeholder. */
  master: XmlNode | null
  deckStyle: XmlNode | undefined
  tableStyles: XmlNode | null
  layers: { slide: Sheet; layout: Sheet | null; master: Sheet | null }
  /** How shapes of the slide stand after so many clicks. */
  state: SlideState
  /** Of the slide, pixels. */
  width: number
  height: number
  warnings: Warnings
  altTexts: string[]
  /** Films of the slide, by the ids of their shapes, and where those that were drawn stand. */
  films: ReadonlyMap<string, FoundFilm>
  filmBoxes: Map<string, { box: Transform; hasPoster: boolean }>
  /** Inside of a diagram: one that lies in it again, or is itself, is not looked into. */
  isInside?: boolean
}

/** Maps what a group has inside to where it stands. */
export interface Frame {
  x: number
  y: number
  scaleX: number
  scaleY: number
}

export const EVERYTHING: Frame = { x: 0, y: 0, scaleX: 1, scaleY: 1 }

export const placeholderOf = (shape: XmlNode): XmlNode | undefined =>
  shape.children.map((c) => (/^nv.*Pr$/.test(c.name) ? at(c, 'nvPr', 'ph') : undefined)).find(Boolean)

/** What a shape is called, and its number. */
export const namesOf = (shape: XmlNode): XmlNode | undefined => {
  const holder = shape.children.find((c) => /^nv.*Pr$/.test(c.name))
  return child(holder, 'cNvPr')
}

/** The placeholder a shape takes after, in a layout or master. */
export function counterpart(sheet: Sheet | null, placeholder: XmlNode | undefined): XmlNode | undefined {
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

/** Sixtieth-thousandths of a degree, as files have them, in degrees. */
export const degrees = (angle: string | undefined): number => (numberOf(angle) ?? 0) / 60_000

export function transformOf(xfrm: XmlNode | undefined, frame: Frame, scale: number): Transform | null {
  const [off, ext] = [child(xfrm, 'off'), child(xfrm, 'ext')]
  if (!off || !ext) return null
  const [x = 0, y = 0, cx = 0, cy = 0] = [off.attrs.x, off.attrs.y, ext.attrs.cx, ext.attrs.cy].map((v) => numberOf(v) ?? 0)
  const rotation = degrees(xfrm?.attrs.rot)
  // what stands on its side is stretched across where others are stretched along
  const isOnSide = Math.round(rotation / 90) % 2 !== 0
  const [sx, sy] = isOnSide ? [frame.scaleY, frame.scaleX] : [frame.scaleX, frame.scaleY]
  const [width, height] = [cx * sx * scale, cy * sy * scale]
  return {
    x: (frame.x + (x + cx / 2) * frame.scaleX) * scale - width / 2,
    y: (frame.y + (y + cy / 2) * frame.scaleY) * scale - height / 2,
    width,
    height,
    rotation,
    flipX: xfrm?.attrs.flipH === '1' || xfrm?.attrs.flipH === 'true',
    flipY: xfrm?.attrs.flipV === '1' || xfrm?.attrs.flipV === 'true',
  }
}
