/**
 * What the clicks on a page do, from its tree of animations. The outermost parts of the main sequence each begin at the next click.
 *
 * @see OpenDocument 1.3, part 3, §15 (animations), §19.395 presentation:node-type, §19.398 presentation:preset-class; SMIL 3.0 for times
 */
import { endOfPath } from '../steps/end-of-path.ts'
import { type Change, type Click, type Effect, type EffectGroup, groupsOf, type Part } from '../steps/steps.ts'
import { below, children, numberOf, type XmlNode } from '../xml.ts'

const CLASSES = /^(entrance|exit|emphasis|motion-path)$/
/** What films and sounds are told to do. */
const CALL = 'media-call'

export interface Clicks {
  groups: EffectGroup[]
  /** Effects that leave nothing that a picture could show, or that wait for a press on something. */
  untaken: number
}

/** What is on a page: a shape by its name, or a paragraph of one. */
export type Places = ReadonlyMap<string, { target: string; part: Part }>

const isParagraph = (node: XmlNode) => node.name === 'p' || node.name === 'h'
const nameOf = (node: XmlNode) => node.attrs['xml:id'] ?? node.attrs['draw:id'] ?? node.attrs['text:id']

/** Paragraphs of a shape in the order in which they are drawn. */
export const paragraphsIn = (node: XmlNode): XmlNode[] =>
  node.children.flatMap((inner) => (isParagraph(inner) ? [inner] : paragraphsIn(inner)))

/** Names of all that an effect may be for. @param page `draw:page` */
export function placesOn(page: XmlNode): Places {
  const places = new Map<string, { target: string; part: Part }>()
  const walk = (node: XmlNode) => {
    for (const shape of node.children) {
      if (shape.name === 'notes') continue
      const name = nameOf(shape)
      if (name) places.set(name, { target: name, part: { kind: 'whole' } })
      if (shape.name === 'g') walk(shape)
      else
        for (const [i, paragraph] of paragraphsIn(shape).entries()) {
          const own = nameOf(paragraph)
          if (own) places.set(own, { target: name ?? `of ${own}`, part: { kind: 'paragraphs', from: i, to: i } })
        }
    }
  }
  walk(page)
  return places
}

/** A shape without a name of its own is known by that of a paragraph in it. */
export const targetName = (shape: XmlNode): string[] => {
  const name = nameOf(shape)
  return name ? [name] : paragraphsIn(shape).flatMap((paragraph) => (nameOf(paragraph) ? [`of ${nameOf(paragraph)}`] : []))
}

const SECONDS = { h: 3600, min: 60, s: 1, ms: 0.001 }
/** @returns null for what waits for a click or for something else @see SMIL 3.0, clock values */
function secondsOf(begin: string | undefined): number | null {
  if (begin === undefined) return 0
  const match = /^\+?([\d.]+)(h|min|s|ms)?$/.exec(begin.trim())
  return match ? Number(match[1]) * SECONDS[(match[2] ?? 's') as keyof typeof SECONDS] : null
}

const ATTRIBUTES: Record<string, 'letters' | 'fill' | 'line'> = {
  color: 'letters',
  'text-color': 'letters',
  'fill-color': 'fill',
  'line-color': 'line',
}

function transformOf({ attrs }: XmlNode): Change | null {
  const [x, y] = (attrs['smil:by'] ?? attrs['smil:to'] ?? '').split(/[,\s]+/).map(Number)
  if (x === undefined || !Number.isFinite(x)) return null
  if (attrs['svg:type'] === 'rotate') return x % 360 === 0 ? null : { kind: 'turn', degrees: x }
  if (attrs['svg:type'] !== 'scale') return null
  // what it grows by is added to its own size
  const by = attrs['smil:by'] === undefined ? 0 : 1
  return { kind: 'scale', x: by + x, y: by + (Number.isFinite(y) ? y! : x) }
}

/** What one behaviour of an emphasis or a path leaves; null for nothing. */
function changeOf(behaviour: XmlNode): Change | null {
  const { attrs, name } = behaviour
  if (attrs['smil:autoReverse'] === 'true' || attrs['smil:fill'] === 'remove') return null
  const [attribute = '', to = ''] = [attrs['smil:attributeName'], attrs['smil:to']]
  if (name === 'animateMotion') {
    const end = endOfPath(attrs['svg:path'] ?? '')
    return end && { kind: 'move', ...end }
  }
  if (name === 'animateTransform') return transformOf(behaviour)
  const kind = ATTRIBUTES[attribute]
  if ((name === 'animateColor' || name === 'set') && kind && /^#[\da-f]{6}$/i.test(to)) return { kind, colour: to }
  if (name !== 'set' && name !== 'animate') return null
  if (attribute === 'font-weight' && to === 'bold') return { kind: 'bold' }
  if (attribute === 'font-style' && to === 'italic') return { kind: 'italic' }
  if (attribute === 'text-underline' && to === 'solid') return { kind: 'underline' }
  return attribute === 'opacity' && numberOf(to) !== null ? { kind: 'opacity', value: Number(to) } : null
}

function placeOf(behaviour: XmlNode, inherited: string | undefined, places: Places) {
  const place = places.get(behaviour.attrs['smil:targetElement'] ?? inherited ?? '')
  if (place?.part.kind !== 'whole') return place ?? null
  // a shape's own fill, or all of its text, may come apart from it
  const item = behaviour.attrs['anim:sub-item']
  if (item === 'background') return { ...place, part: { kind: 'background' } as const }
  return item === 'text' ? { ...place, part: { kind: 'paragraphs', from: 0, to: 999 } as const } : place
}

function effectsOf(effect: XmlNode, places: Places, films: ReadonlySet<string>): Effect[] {
  if (effect.attrs['presentation:preset-class'] === CALL)
    return children(effect, 'command').flatMap((command): Effect[] => {
      const target = command.attrs['smil:targetElement'] ?? ''
      const begins = /^(play|toggle-pause)$/.test(command.attrs['anim:command'] ?? '')
      return begins && films.has(target) ? [{ target, part: { kind: 'whole' }, change: { kind: 'play' } }] : []
    })
  const [iterate] = children(effect, 'iterate')
  const behaviours = (iterate ?? effect).children
  const inherited = iterate?.attrs['smil:targetElement']
  const of = (behaviour: XmlNode) => {
    const item = behaviour.attrs['anim:sub-item'] ?? iterate?.attrs['anim:sub-item']
    const attrs = item === undefined ? behaviour.attrs : { ...behaviour.attrs, 'anim:sub-item': item }
    return placeOf({ ...behaviour, attrs }, inherited, places)
  }
  const kind = effect.attrs['presentation:preset-class']
  if (kind === 'entrance' || kind === 'exit') {
    const found = behaviours.map(of).find((place) => place !== null)
    return found ? [{ ...found, change: { kind: kind === 'entrance' ? 'show' : 'hide' } }] : []
  }
  if (effect.attrs['smil:autoReverse'] === 'true' || effect.attrs['smil:fill'] === 'remove') return []
  return behaviours.flatMap((behaviour): Effect[] => {
    const [place, change] = [of(behaviour), changeOf(behaviour)]
    return place && change ? [{ ...place, change }] : []
  })
}

/** Effects with the seconds after which each begins, from their click on. */
function timed(node: XmlNode, begin: number): { effect: XmlNode; at: number }[] {
  return node.children.flatMap((inner) => {
    if (!/^(par|seq)$/.test(inner.name)) return []
    const at = begin + (secondsOf(inner.attrs['smil:begin']) ?? 0)
    const kind = inner.attrs['presentation:preset-class'] ?? ''
    return CLASSES.test(kind) || kind === CALL ? [{ effect: inner, at }] : timed(inner, at)
  })
}

/** What was written before animations had a tree: each of its entries is a click. @see OpenDocument 1.3, part 3, §10.8 */
function olderClicks(page: XmlNode, places: Places): Clicks {
  const entries = children(page, 'animations').flatMap((list) =>
    list.children.flatMap((one) => (one.name === 'animation-group' ? [one.children] : [[one]])),
  )
  let untaken = 0
  const groups = entries.flatMap((entry): EffectGroup[] => {
    const effects = entry.flatMap(({ name, attrs }): Effect[] => {
      const place = places.get(attrs['draw:shape-id'] ?? '')
      const match = /^(show|hide)-(shape|text)$/.exec(name)
      if (!place || !match) return []
      const part: Part = match[2] === 'text' ? { kind: 'paragraphs', from: 0, to: 999 } : place.part
      return [{ target: place.target, part, change: { kind: match[1] as 'show' | 'hide' } }]
    })
    untaken += entry.length - effects.length
    return effects.length > 0 ? [{ effects, afterSeconds: null }] : []
  })
  return { groups, untaken }
}

/** @param page `draw:page` @param films names of the frames that are films */
export function readClicks(page: XmlNode, films: ReadonlySet<string> = new Set()): Clicks {
  const places = placesOn(page)
  const all = below(page, 'par').filter(({ attrs }) => CLASSES.test(attrs['presentation:preset-class'] ?? ''))
  const [main] = below(page, 'seq').filter(({ attrs }) => attrs['presentation:node-type'] === 'main-sequence')
  if (!main) {
    const older = olderClicks(page, places)
    // effects outside of a sequence come by nothing that is known
    return { ...older, untaken: older.untaken + all.length }
  }
  let taken = 0
  const clicks = children(main, 'par').map((outer): Click => {
    const inside = timed(outer, 0)
    return {
      byClick: inside[0]?.effect.attrs['presentation:node-type'] === 'on-click',
      effects: inside.map(({ effect, at }) => {
        const effects = effectsOf(effect, places, films)
        if (effects.length > 0 && effect.attrs['presentation:preset-class'] !== CALL) taken++
        return { effects, at, delay: secondsOf(effect.attrs['smil:begin']) ?? 0 }
      }),
    }
  })
  return { groups: groupsOf(clicks), untaken: all.length - taken }
}
