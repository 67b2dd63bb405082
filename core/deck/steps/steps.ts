/**
 * Clicks of a slide as steps: what its effects show, hide and change, and how the slide stands after each click. How a thing comes or goes
 * (by fading, flying in) is nothing that a picture has; what it leaves is.
 */

/** What of a shape an effect is for. Paragraphs, series and categories are counted from 0. */
export type Part =
  | { kind: 'whole' }
  /** Its fill and line, without its text. */
  | { kind: 'background' }
  | { kind: 'paragraphs'; from: number; to: number }
  | { kind: 'series'; index: number }
  | { kind: 'category'; index: number }

/** What an effect leaves behind. Colours as CSS has them. */
export type Change =
  | { kind: 'show' }
  | { kind: 'hide' }
  | { kind: 'fill'; colour: string }
  | { kind: 'line'; colour: string }
  | { kind: 'letters'; colour: string }
  | { kind: 'bold' | 'italic' | 'underline' }
  /** By shares of the slide's width and height. */
  | { kind: 'move'; x: number; y: number }
  /** By factors, about the middle. */
  | { kind: 'scale'; x: number; y: number }
  /** By degrees, clockwise. */
  | { kind: 'turn'; degrees: number }
  /** 0 is not seen at all. */
  | { kind: 'opacity'; value: number }
  /** A film begins. */
  | { kind: 'play' }

export interface Effect {
  /** As the deck names the shape. */
  target: string
  part: Part
  change: Change
}

/** What happens at once. */
export interface EffectGroup {
  effects: Effect[]
  /** Seconds after the group before it, where it comes by itself; null where a click brings it. */
  afterSeconds: number | null
}

/** Effects of one click, each with when it begins. */
export interface Click {
  /** False for what begins when the slide appears. */
  byClick: boolean
  /** Seconds from the click on, and those of them that the effect itself waits after the one before. */
  effects: { effects: Effect[]; at: number; delay: number }[]
}

/** What comes so much later by itself is a picture of its own. */
const LATER_S = 1

/** What is seen at once: all of a click, but for what waits after it. */
export function groupsOf(clicks: readonly Click[]): EffectGroup[] {
  const groups: EffectGroup[] = []
  for (const { byClick, effects: inside } of clicks) {
    let open: EffectGroup | null = null
    let began = 0
    for (const { effects, at, delay } of inside) {
      if (effects.length === 0) continue
      const waits = delay >= LATER_S
      if (open === null || waits) {
        const isFirst: boolean = open === null
        open = { effects: [], afterSeconds: isFirst && byClick ? null : isFirst && !waits ? 0 : at - began }
        groups.push(open)
        began = at
      }
      open.effects.push(...effects)
    }
  }
  return groups
}

/** How a shape stands. What is absent is as the deck draws it. */
export interface ShapeState {
  hidden: boolean
  backgroundHidden: boolean
  hiddenParagraphs: ReadonlySet<number>
  hiddenSeries: ReadonlySet<number>
  hiddenCategories: ReadonlySet<number>
  fill?: string
  line?: string
  letters?: string
  bold?: boolean
  italic?: boolean
  underline?: boolean
  move: { x: number; y: number }
  scale: { x: number; y: number }
  /** Degrees. */
  turn: number
  opacity: number
  /** It is a film, and has begun. */
  plays?: boolean
}

/** Shapes that do not stand as the deck draws them, by their names in it. */
export type SlideState = ReadonlyMap<string, ShapeState>

/** Of what a slide is when nothing happens on it. */
export const AS_DRAWN: SlideState = new Map()

const UNCHANGED: ShapeState = {
  hidden: false,
  backgroundHidden: false,
  hiddenParagraphs: new Set(),
  hiddenSeries: new Set(),
  hiddenCategories: new Set(),
  move: { x: 0, y: 0 },
  scale: { x: 1, y: 1 },
  turn: 0,
  opacity: 1,
}
/** More paragraphs no text has that is shown; a deck may name any number of them. */
const MOST_PARAGRAPHS = 2000

function shown(state: ShapeState, part: Part, hidden: boolean): ShapeState {
  const put = (set: ReadonlySet<number>, from: number, to: number) => {
    const next = new Set(set)
    for (let i = from; i <= Math.min(to, from + MOST_PARAGRAPHS); i++) {
      if (hidden) next.add(i)
      else next.delete(i)
    }
    return next
  }
  switch (part.kind) {
    case 'whole':
      return { ...state, hidden }
    case 'background':
      return { ...state, backgroundHidden: hidden }
    case 'paragraphs':
      return { ...state, hiddenParagraphs: put(state.hiddenParagraphs, part.from, part.to) }
    case 'series':
      return { ...state, hiddenSeries: put(state.hiddenSeries, part.index, part.index) }
    case 'category':
      return { ...state, hiddenCategories: put(state.hiddenCategories, part.index, part.index) }
  }
}

function after(state: ShapeState, { part, change }: Effect): ShapeState {
  switch (change.kind) {
    case 'show':
    case 'hide':
      return shown(state, part, change.kind === 'hide')
    case 'fill':
    case 'line':
    case 'letters':
      return { ...state, [change.kind]: change.colour }
    case 'bold':
    case 'italic':
    case 'underline':
      return { ...state, [change.kind]: true }
    case 'move':
      return { ...state, move: { x: state.move.x + change.x, y: state.move.y + change.y } }
    case 'scale':
      return { ...state, scale: { x: state.scale.x * change.x, y: state.scale.y * change.y } }
    case 'turn':
      return { ...state, turn: state.turn + change.degrees }
    case 'opacity':
      return { ...state, opacity: change.value }
    case 'play':
      return { ...state, plays: true }
  }
}

/** What is not there before its first effect shows it. */
function atFirst(groups: readonly EffectGroup[]): Map<string, ShapeState> {
  const seen = new Set<string>()
  const states = new Map<string, ShapeState>()
  for (const { target, part, change } of groups.flatMap((group) => group.effects)) {
    if (change.kind !== 'show' && change.kind !== 'hide') continue
    const keys =
      part.kind === 'paragraphs'
        ? Array.from({ length: Math.min(MOST_PARAGRAPHS, part.to - part.from + 1) }, (_, i): Part => {
            const at = part.from + i
            return { kind: 'paragraphs', from: at, to: at }
          })
        : [part]
    for (const one of keys) {
      const key = `${target} ${JSON.stringify(one)}`
      if (seen.has(key)) continue
      seen.add(key)
      if (change.kind === 'show') states.set(target, shown(states.get(target) ?? UNCHANGED, one, true))
    }
  }
  return states
}

/**
 * How a slide stands at first and after each of its groups. Groups that come by themselves at once when the slide appears
 * (`afterSeconds` 0, before any click) are part of how it stands at first.
 */
export function slideStates(groups: readonly EffectGroup[]): { state: SlideState; afterSeconds: number | null }[] {
  let now = atFirst(groups)
  const states: { state: SlideState; afterSeconds: number | null }[] = [{ state: new Map(now), afterSeconds: 0 }]
  for (const { effects, afterSeconds } of groups) {
    now = new Map(now)
    for (const effect of effects) now.set(effect.target, after(now.get(effect.target) ?? UNCHANGED, effect))
    if (afterSeconds === 0) states[states.length - 1]!.state = now
    else states.push({ state: now, afterSeconds })
  }
  return states
}
