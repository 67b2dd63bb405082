/** Outlines of shapes as paths in a box from 0 to 1: those the standard defines by name, and those that a shape brings. @see ECMA-376, part 1, §20.1.9 */
import type { PathStep } from '../../deck.ts'
import { at, child, children, numberOf, type XmlNode } from '../../xml.ts'
import { type Guide, reckon } from './formulas.ts'
import presets from './presets.json' with { type: 'json' }

/** One path of a shape's definition. */
export interface PathDefinition {
  /** Its own units; 0 where it is in those of the shape. */
  w: number
  h: number
  fill: string
  stroke: boolean
  /** Letters as SVG has them, each with names or numbers; A is wR, hR, stAng, swAng. */
  steps: string
}

export interface Definition {
  /** Adjustments and what they are where a shape says nothing. */
  av: Guide[]
  gd: Guide[]
  /** Where text stands: left, top, right, bottom. */
  rect: string[] | null
  paths: PathDefinition[]
}

export interface Outline {
  path: PathStep[]
  /** How its fill is changed; null for a path that is not filled. */
  shade: 'as it is' | 'lighter' | 'darker' | null
  stroked: boolean
}

export interface Outlines {
  outlines: Outline[]
  /** Where text stands, in shares of the box. */
  text: { left: number; top: number; right: number; bottom: number }
}

const PRESETS = presets as unknown as Record<string, Definition>
const SHADES: Record<string, Outline['shade']> = {
  none: null,
  lighten: 'lighter',
  lightenLess: 'lighter',
  darken: 'darker',
  darkenLess: 'darker',
}
const COUNT: Record<string, number> = { M: 2, L: 2, Q: 4, C: 6, A: 4, Z: 0 }

/** @see ECMA-376, part 1, §20.1.9.3 arcTo: angles are those of a circle before it is stretched to the ellipse */
function arc(here: [number, number], values: number[], unit: { x: number; y: number }): [PathStep, [number, number]] {
  const [wR = 0, hR = 0, start = 0, swing = 0] = values
  const turn = (angle: number) => (angle / 60_000) * (Math.PI / 180)
  const stretched = (angle: number) => {
    const around = Math.round(angle / (2 * Math.PI)) * 2 * Math.PI
    const within = angle - around
    return wR === 0 || hR === 0 ? angle : Math.atan2(Math.sin(within) / hR, Math.cos(within) / wR) + around
  }
  const from = stretched(turn(start))
  // a whole turn stays one, whichever way it is stretched
  const whole = Math.abs(turn(swing)) >= 2 * Math.PI - 1e-6
  const until = whole ? from + turn(swing) : stretched(turn(start + swing))
  const [rx, ry] = [wR * unit.x, hR * unit.y]
  const [x, y] = [here[0] - rx * Math.cos(from), here[1] - ry * Math.sin(from)]
  return [{ to: 'ellipse', x, y, rx, ry, from, until }, [x + rx * Math.cos(until), y + ry * Math.sin(until)]]
}

function stepsOf(steps: string, worth: (word: string) => number, unit: { x: number; y: number }): PathStep[] {
  const words = steps.split(' ')
  const path: PathStep[] = []
  let here: [number, number] = [0, 0]
  let start: [number, number] = here
  for (let i = 0; i < words.length; ) {
    const letter = words[i]!
    const count = COUNT[letter]
    if (count === undefined) break
    const values = words.slice(i + 1, i + 1 + count).map(worth)
    i += 1 + count
    if (letter === 'Z') {
      path.push({ to: 'close' })
      here = start
      continue
    }
    if (letter === 'A') {
      const [step, end] = arc(here, values, unit)
      path.push(step)
      here = end
      continue
    }
    const p = values.map((value, k) => value * (k % 2 === 0 ? unit.x : unit.y))
    if (letter === 'Q') {
      const toward = (x: number, y: number) => [x + (2 / 3) * (p[0]! - x), y + (2 / 3) * (p[1]! - y)] as const
      path.push({ to: 'curve', points: [...toward(...here), ...toward(p[2]!, p[3]!), p[2]!, p[3]!] })
    } else if (letter === 'C') path.push({ to: 'curve', points: p as [number, number, number, number, number, number] })
    else path.push({ to: letter === 'M' ? 'move' : 'line', x: p[0]!, y: p[1]! })
    here = [p.at(-2)!, p.at(-1)!]
    if (letter === 'M') start = here
  }
  return path
}

/** @param width, height of the shape, in any unit */
function outlinesOf(definition: Definition, adjust: ReadonlyMap<string, number>, width: number, height: number): Outlines {
  const [w, h] = [Math.max(1e-6, width), Math.max(1e-6, height)]
  const worth = reckon([...definition.av, ...definition.gd], adjust, w, h)
  const share = (word: string | undefined, whole: number, usual: number) => (word === undefined ? usual : worth(word) / whole)
  const [left, top, right, bottom] = definition.rect ?? []
  return {
    outlines: definition.paths.map((path) => ({
      path: stepsOf(path.steps, worth, { x: 1 / (path.w || w), y: 1 / (path.h || h) }),
      shade: path.fill in SHADES ? SHADES[path.fill]! : 'as it is',
      stroked: path.stroke,
    })),
    text: {
      left: share(left, w, 0),
      top: share(top, h, 0),
      right: share(right, w, 1),
      bottom: share(bottom, h, 1),
    },
  }
}

/** @returns null for a name that the standard does not know */
export function presetOutlines(
  name: string,
  adjust: ReadonlyMap<string, number>,
  width: number,
  height: number,
): Outlines | null {
  const definition = PRESETS[name]
  return definition ? outlinesOf(definition, adjust, width, height) : null
}

/** Of a rectangle that text fills. */
export const RECTANGLE = presetOutlines('rect', new Map(), 1, 1)!

const guides = (list: XmlNode | undefined): Guide[] =>
  children(list, 'gd').map((gd) => [gd.attrs.name ?? '', gd.attrs.fmla ?? ''] as const)

const LETTERS: Record<string, string> = { moveTo: 'M', lnTo: 'L', cubicBezTo: 'C', quadBezTo: 'Q', arcTo: 'A', close: 'Z' }

/** @param geometry a preset's definition or `a:custGeom` @see ECMA-376, part 1, §20.1.9.8 */
export function definitionOf(geometry: XmlNode): Definition {
  const rect = child(geometry, 'rect')
  return {
    av: guides(child(geometry, 'avLst')),
    gd: guides(child(geometry, 'gdLst')),
    rect: rect ? ['l', 't', 'r', 'b'].map((side) => rect.attrs[side] ?? side) : null,
    paths: children(at(geometry, 'pathLst'), 'path').map((path) => ({
      w: numberOf(path.attrs.w) ?? 0,
      h: numberOf(path.attrs.h) ?? 0,
      fill: path.attrs.fill ?? 'norm',
      stroke: path.attrs.stroke !== '0' && path.attrs.stroke !== 'false',
      steps: path.children
        .flatMap((command) => {
          const letter = LETTERS[command.name]
          if (!letter) return []
          const { wR = '0', hR = '0', stAng = '0', swAng = '0' } = command.attrs
          const values =
            letter === 'A'
              ? [wR, hR, stAng, swAng]
              : children(command, 'pt').flatMap((pt) => [pt.attrs.x ?? '0', pt.attrs.y ?? '0'])
          return values.length === COUNT[letter] ? [letter, ...values] : []
        })
        .join(' '),
    })),
  }
}

/** Of a shape that brings a path of its own. */
export const customOutlines = (geometry: XmlNode, width: number, height: number): Outlines =>
  outlinesOf(definitionOf(geometry), new Map(), width, height)
