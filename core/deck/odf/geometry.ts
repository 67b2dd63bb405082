/**
 * Outlines of OpenDocument shapes that bring their own: formulas and paths of custom shapes, polygons, paths of SVG.
 *
 * @see OpenDocument 1.3, part 3, §10.6 (enhanced geometry), §19.145 draw:enhanced-path, §19.171 draw:formula
 */
import jsep from 'jsep'
import { SVGPathData } from 'svg-pathdata'
import type { PathStep } from '../deck.ts'
import { children, numberOf, type XmlNode } from '../xml.ts'

interface Box {
  x: number
  y: number
  width: number
  height: number
}

export interface OwnOutline {
  path: PathStep[]
  filled: boolean
  stroked: boolean
}

/** @see OpenDocument 1.3, part 3, §19.171: the functions of its formulas */
const FUNCTIONS: Record<string, (...values: number[]) => number> = {
  abs: Math.abs,
  sqrt: (x) => Math.sqrt(Math.max(0, x)),
  sin: Math.sin,
  cos: Math.cos,
  tan: Math.tan,
  atan: Math.atan,
  atan2: Math.atan2,
  min: Math.min,
  max: Math.max,
  if: (test, yes, no) => (test > 0 ? yes : no),
}
const OPERATORS: Record<string, (a: number, b: number) => number> = {
  '+': (a, b) => a + b,
  '-': (a, b) => a - b,
  '*': (a, b) => a * b,
  '/': (a, b) => (b === 0 ? 0 : a / b),
}
/** Formulas name others; a circle of them ends here. */
const DEEPEST = 60

/** What the words of a path stand for: numbers, `$n` adjustments, `?name` formulas, and what a shape knows of its box. */
function worthOf(geometry: XmlNode, view: Box) {
  const modifiers = (geometry.attrs['draw:modifiers'] ?? '').trim().split(/\s+/).map(Number)
  const formulas = new Map(children(geometry, 'equation').map(({ attrs }) => [attrs['draw:name'], attrs['draw:formula'] ?? '0']))
  const right = view.x + view.width
  const bottom = view.y + view.height
  const named: Record<string, number> = {
    ...{ pi: Math.PI, left: view.x, top: view.y, right, bottom, width: view.width, height: view.height },
    ...{ logwidth: view.width, logheight: view.height, xstretch: 0, ystretch: 0, hasstroke: 1, hasfill: 1 },
  }
  const known = new Map<string, number>()
  const reckon = (node: jsep.Expression, depth: number): number => {
    const of = (inner: unknown) => reckon(inner as jsep.Expression, depth + 1)
    switch (node.type) {
      case 'Literal':
        return Number(node.value)
      case 'Identifier':
        return word(String(node.name).replace(/^formula_/, '?'), depth + 1)
      case 'UnaryExpression':
        return node.operator === '-' ? -of(node.argument) : of(node.argument)
      case 'BinaryExpression':
        return OPERATORS[String(node.operator)]?.(of(node.left), of(node.right)) ?? 0
      case 'CallExpression': {
        const name = String((node.callee as jsep.Expression).name)
        return FUNCTIONS[name]?.(...(node.arguments as unknown[]).map(of)) ?? 0
      }
      default:
        return 0
    }
  }
  const formula = (name: string, depth: number): number => {
    const before = known.get(name)
    if (before !== undefined) return before
    const text = formulas.get(name)
    if (text === undefined || depth > DEEPEST) return 0
    let value = 0
    try {
      // the parser knows names of letters, digits and lines
      value = reckon(jsep(text.replaceAll('?', 'formula_')), depth)
    } catch {
      value = 0
    }
    known.set(name, Number.isFinite(value) ? value : 0)
    return known.get(name)!
  }
  const word = (text: string, depth = 0): number => {
    if (text.startsWith('?')) return formula(text.slice(1), depth)
    if (text.startsWith('$')) return modifiers[Number(text.slice(1))] || 0
    return named[text] ?? numberOf(text) ?? 0
  }
  return word
}

const COUNTS: Record<string, number> = {
  ...{ M: 2, L: 2, C: 6, Q: 4, T: 6, U: 6, A: 8, B: 8, W: 8, V: 8, X: 2, Y: 2, G: 4 },
  ...{ Z: 0, N: 0, F: 0, S: 0 },
}
const radians = (degrees: number) => (degrees * Math.PI) / 180

/** Draws a path of its letters, in shares of the view. */
class Pen {
  readonly outlines: OwnOutline[] = []
  #path: PathStep[] = []
  #filled = true
  #stroked = true
  #here: [number, number] = [0, 0]
  readonly #view: Box

  constructor(view: Box) {
    this.#view = view
  }

  #x(x: number) {
    return (x - this.#view.x) / this.#view.width
  }
  #y(y: number) {
    return (y - this.#view.y) / this.#view.height
  }

  end() {
    if (this.#path.length > 0) this.outlines.push({ path: this.#path, filled: this.#filled, stroked: this.#stroked })
    this.#path = []
    this.#filled = true
    this.#stroked = true
  }

  #line(to: 'move' | 'line', [x = 0, y = 0]: number[]) {
    this.#path.push({ to, x: this.#x(x), y: this.#y(y) })
    this.#here = [x, y]
  }

  #curve([a = 0, b = 0, c = 0, d = 0, e = 0, f = 0]: number[]) {
    this.#path.push({ to: 'curve', points: [this.#x(a), this.#y(b), this.#x(c), this.#y(d), this.#x(e), this.#y(f)] })
    this.#here = [e, f]
  }

  /** @param from, until radians of the ellipse itself */
  #ellipse(x: number, y: number, rx: number, ry: number, from: number, until: number) {
    this.#path.push({
      to: 'ellipse',
      x: this.#x(x),
      y: this.#y(y),
      rx: Math.abs(rx) / this.#view.width,
      ry: Math.abs(ry) / this.#view.height,
      from,
      until,
    })
    this.#here = [x + rx * Math.cos(until), y + ry * Math.sin(until)]
  }

  /** An arc of the ellipse in a box, between the rays to two points. */
  #arc([left = 0, top = 0, right = 0, bottom = 0, x1 = 0, y1 = 0, x2 = 0, y2 = 0]: number[], clockwise: boolean) {
    const [rx, ry] = [(right - left) / 2, (bottom - top) / 2]
    const [x, y] = [left + rx, top + ry]
    if (rx === 0 || ry === 0) return
    const from = Math.atan2((y1 - y) / ry, (x1 - x) / rx)
    let until = Math.atan2((y2 - y) / ry, (x2 - x) / rx)
    if (clockwise && until <= from) until += 2 * Math.PI
    if (!clockwise && until >= from) until -= 2 * Math.PI
    this.#ellipse(x, y, rx, ry, from, until)
  }

  /** A quarter of an ellipse that begins along one axis. */
  #quadrant([x = 0, y = 0]: number[], alongX: boolean) {
    const [x0, y0] = this.#here
    const k = 0.5523
    this.#curve(alongX ? [x0 + (x - x0) * k, y0, x, y - (y - y0) * k, x, y] : [x0, y0 + (y - y0) * k, x - (x - x0) * k, y, x, y])
  }

  draw(letter: string, v: number[]) {
    const [a = 0, b = 0, c = 0, d = 0, e = 0, f = 0] = v
    switch (letter) {
      case 'M':
        return this.#line('move', v)
      case 'L':
        return this.#line('line', v)
      case 'C':
        return this.#curve(v)
      case 'Q': {
        const [x, y] = this.#here
        return this.#curve([x + (2 / 3) * (a - x), y + (2 / 3) * (b - y), c + (2 / 3) * (a - c), d + (2 / 3) * (b - d), c, d])
      }
      case 'T':
      case 'U': {
        const from = radians(e)
        const until = f - e >= 360 || f === e ? from + 2 * Math.PI : radians(f < e ? f + 360 : f)
        if (letter === 'U') this.#line('move', [a + c * Math.cos(from), b + d * Math.sin(from)])
        return this.#ellipse(a, b, c, d, from, until)
      }
      case 'A':
      case 'W':
      case 'B':
      case 'V':
        if (letter === 'B' || letter === 'V') this.#line('move', [e, f])
        return this.#arc(v, letter === 'W' || letter === 'V')
      case 'X':
      case 'Y':
        return this.#quadrant(v, letter === 'X')
      case 'G': {
        const [x, y] = this.#here
        const [from, until] = [radians(c), radians(c + d)]
        return this.#ellipse(x - a * Math.cos(from), y - b * Math.sin(from), a, b, from, until)
      }
      case 'Z':
        return void this.#path.push({ to: 'close' })
      case 'F':
        this.#filled = false
        return
      case 'S':
        this.#stroked = false
        return
      default:
        return this.end()
    }
  }
}

const viewOf = (text: string | undefined): Box | null => {
  const [x, y, width, height] = (text ?? '').trim().split(/\s+/).map(Number)
  return width && height ? { x: x || 0, y: y || 0, width, height } : null
}

/** @param geometry `draw:enhanced-geometry` @returns null where it has no path */
export function enhancedOutlines(geometry: XmlNode): OwnOutline[] | null {
  const view = viewOf(geometry.attrs['svg:viewBox'])
  const path = geometry.attrs['draw:enhanced-path']
  if (!view || !path) return null
  const word = worthOf(geometry, view)
  const pen = new Pen(view)
  const words = path.match(/[A-Z]|[?$][\w$]+|-?[\d.]+(?:e-?\d+)?|[a-z]+/g) ?? []
  for (let i = 0; i < words.length; ) {
    const letter = words[i++]!
    const count = COUNTS[letter]
    if (count === undefined) continue
    if (count === 0) {
      pen.draw(letter, [])
      continue
    }
    // a letter stands for all that follow it of its kind; points after a move are lines
    let now = letter
    for (; i < words.length && COUNTS[words[i]!] === undefined; i += count) {
      pen.draw(
        now,
        words.slice(i, i + count).map((text) => word(text)),
      )
      if (now === 'M') now = 'L'
      // quadrants take turns
      else if (now === 'X') now = 'Y'
      else if (now === 'Y') now = 'X'
    }
  }
  pen.end()
  return pen.outlines.length > 0 ? pen.outlines : null
}

/** Where text stands in a shape, in shares of its box; null where it says nothing. @see OpenDocument 1.3, part 3, §19.219 draw:text-areas */
export function textArea(geometry: XmlNode): { left: number; top: number; right: number; bottom: number } | null {
  const view = viewOf(geometry.attrs['svg:viewBox'])
  const words = (geometry.attrs['draw:text-areas'] ?? '').trim().split(/\s+/)
  if (!view || words.length < 4) return null
  const word = worthOf(geometry, view)
  const [left, top, right, bottom] = words
    .slice(0, 4)
    .map((text, i) => (i % 2 === 0 ? (word(text) - view.x) / view.width : (word(text) - view.y) / view.height))
  return { left: left!, top: top!, right: right!, bottom: bottom! }
}

/** @param node `draw:polygon`, `draw:polyline` or `draw:path` @returns null where there is none */
export function drawnOutline(node: XmlNode): OwnOutline | null {
  const view = viewOf(node.attrs['svg:viewBox'])
  if (!view) return null
  const pen = new Pen(view)
  if (node.name === 'path') {
    try {
      const data = new SVGPathData(node.attrs['svg:d'] ?? '').toAbs().normalizeHVZ(false).normalizeST().qtToC().aToC()
      for (const command of data.commands) {
        if (command.type === SVGPathData.MOVE_TO) pen.draw('M', [command.x, command.y])
        else if (command.type === SVGPathData.LINE_TO) pen.draw('L', [command.x, command.y])
        else if (command.type === SVGPathData.CURVE_TO)
          pen.draw('C', [command.x1, command.y1, command.x2, command.y2, command.x, command.y])
        else if (command.type === SVGPathData.CLOSE_PATH) pen.draw('Z', [])
      }
    } catch {
      return null
    }
  } else {
    const points = (node.attrs['draw:points'] ?? '').trim().split(/\s+/)
    for (const [i, point] of points.entries()) pen.draw(i === 0 ? 'M' : 'L', point.split(',').map(Number))
    if (node.name === 'polygon') pen.draw('Z', [])
  }
  pen.end()
  const [outline] = pen.outlines
  return outline ? { ...outline, filled: node.name !== 'polyline' } : null
}
