/** Moves, turns and restates what is drawn: parts of a turned group, shapes that a click changes. */
import type { DrawnItem, Paragraph, TextBox, Transform } from '../deck.ts'
import type { ShapeState } from './steps.ts'

interface Point {
  x: number
  y: number
}

const middleOf = (box: Transform): Point => ({ x: box.x + box.width / 2, y: box.y + box.height / 2 })

function withMiddle(item: DrawnItem, middle: Point, change: Partial<Transform> = {}): DrawnItem {
  const box = { ...item.box, ...change }
  return { ...item, box: { ...box, x: middle.x - box.width / 2, y: middle.y - box.height / 2 } }
}

/** Turns things about a point as one, clockwise. */
export function turned(items: readonly DrawnItem[], about: Point, degrees: number): DrawnItem[] {
  if (degrees % 360 === 0) return [...items]
  const angle = (degrees * Math.PI) / 180
  const [cos, sin] = [Math.cos(angle), Math.sin(angle)]
  return items.map((item) => {
    const middle = middleOf(item.box)
    const [dx, dy] = [middle.x - about.x, middle.y - about.y]
    return withMiddle(
      item,
      { x: about.x + dx * cos - dy * sin, y: about.y + dx * sin + dy * cos },
      { rotation: item.box.rotation + degrees },
    )
  })
}

/** Mirrors things as one. */
export function mirrored(items: readonly DrawnItem[], about: Point, flipX: boolean, flipY: boolean): DrawnItem[] {
  if (!flipX && !flipY) return [...items]
  return items.map((item) => {
    const middle = middleOf(item.box)
    const { flipX: x, flipY: y, rotation } = item.box
    return withMiddle(
      item,
      { x: flipX ? 2 * about.x - middle.x : middle.x, y: flipY ? 2 * about.y - middle.y : middle.y },
      { flipX: x !== flipX, flipY: y !== flipY, rotation: flipX === flipY ? rotation : -rotation },
    )
  })
}

function scaled(items: readonly DrawnItem[], about: Point, { x, y }: Point): DrawnItem[] {
  if (x === 1 && y === 1) return [...items]
  return items.map((item): DrawnItem => {
    const middle = middleOf(item.box)
    const at = { x: about.x + (middle.x - about.x) * x, y: about.y + (middle.y - about.y) * y }
    const grown = withMiddle(item, at, { width: item.box.width * x, height: item.box.height * y })
    return grown.kind === 'shape' && grown.text ? { ...grown, text: largerText(grown.text, Math.min(x, y)) } : grown
  })
}

const largerText = (text: TextBox, factor: number): TextBox => ({
  ...text,
  inset: {
    left: text.inset.left * factor,
    right: text.inset.right * factor,
    top: text.inset.top * factor,
    bottom: text.inset.bottom * factor,
  },
  scale: text.scale * factor,
})

/** Things that stand together, put into a box as one. */
export function fitted(items: readonly DrawnItem[], box: Transform): DrawnItem[] {
  const left = Math.min(...items.map((item) => item.box.x))
  const top = Math.min(...items.map((item) => item.box.y))
  const width = Math.max(1, Math.max(...items.map((item) => item.box.x + item.box.width)) - left)
  const height = Math.max(1, Math.max(...items.map((item) => item.box.y + item.box.height)) - top)
  const share = Math.min(box.width / width, box.height / height)
  return scaled(items, { x: left, y: top }, { x: share, y: share }).map((item) => ({
    ...item,
    box: { ...item.box, x: item.box.x - left + box.x, y: item.box.y - top + box.y },
  }))
}

/** Where things stand, all of them together. */
export function around(items: readonly DrawnItem[]): Point {
  const left = Math.min(...items.map(({ box }) => box.x))
  const right = Math.max(...items.map(({ box }) => box.x + box.width))
  const top = Math.min(...items.map(({ box }) => box.y))
  const bottom = Math.max(...items.map(({ box }) => box.y + box.height))
  return { x: (left + right) / 2, y: (top + bottom) / 2 }
}

function restatedParagraph(paragraph: Paragraph, hidden: boolean, { letters, bold, italic, underline }: ShapeState): Paragraph {
  return {
    ...paragraph,
    hidden,
    runs: paragraph.runs.map((run) => ({
      ...run,
      colour: letters ?? run.colour,
      bold: bold || run.bold,
      italic: italic || run.italic,
      underline: underline || run.underline,
    })),
  }
}

/** What is drawn of a shape that stands so. What is hidden of its text keeps its room. @param slide its size, pixels */
export function restated(items: readonly DrawnItem[], state: ShapeState, slide: { width: number; height: number }): DrawnItem[] {
  if (state.hidden || items.length === 0) return []
  const changed = items.map((item): DrawnItem => {
    const opacity = (item.opacity ?? 1) * state.opacity
    if (item.kind === 'chart')
      return {
        ...item,
        opacity,
        chart: {
          ...item.chart,
          hiddenSeries: [...state.hiddenSeries],
          hiddenCategories: [...state.hiddenCategories],
        },
      }
    if (item.kind !== 'shape') return { ...item, opacity }
    const { fill, line, text } = item
    return {
      ...item,
      opacity,
      fill: state.backgroundHidden ? null : fill && state.fill ? { kind: 'solid', colour: state.fill } : fill,
      line: state.backgroundHidden ? null : line && state.line ? { ...line, colour: state.line } : line,
      text: text && {
        ...text,
        paragraphs: text.paragraphs.map((paragraph, i) => restatedParagraph(paragraph, state.hiddenParagraphs.has(i), state)),
      },
    }
  })
  const about = around(changed)
  const moved = turned(scaled(changed, about, state.scale), about, state.turn)
  const { x, y } = state.move
  if (x === 0 && y === 0) return moved
  return moved.map((item) => ({
    ...item,
    box: { ...item.box, x: item.box.x + x * slide.width, y: item.box.y + y * slide.height },
  }))
}

/** Words that can be seen, a line a paragraph. */
export const visibleText = (items: readonly DrawnItem[]): string[] =>
  items.flatMap((item) =>
    item.kind === 'shape' && (item.opacity ?? 1) > 0
      ? (item.text?.paragraphs ?? [])
          .filter((paragraph) => !paragraph.hidden)
          .map(({ runs }) =>
            runs
              .map((run) => run.text)
              .join('')
              .trim(),
          )
          .filter(Boolean)
      : [],
  )
