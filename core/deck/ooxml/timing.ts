/**
 * What the clicks on a slide do, from its tree of time nodes. The outermost nodes of the main sequence each wait for a click; in them stand
 * the effects, with what comes with or after another one.
 *
 * @see ECMA-376, part 1, §19.5 (animation): §19.5.33 cTn, §19.5.65 seq, §19.5.28 cBhvr, §19.7.36 ST_TLTimeNodeType
 */
import { endOfPath } from '../steps/end-of-path.ts'
import { type Change, type Click, type Effect, type EffectGroup, groupsOf, type Part } from '../steps/steps.ts'
import { at, below, child, children, numberOf, type XmlNode } from '../xml.ts'
import { colourIn, type Theme } from './colours.ts'

/** What stands on the slide; sounds, films and commands have classes of their own. @see ECMA-376, part 1, §19.7.35, ST_TLTimeNodePresetClassType */
const CLASSES = /^(entr|exit|emph|path)$/
/** What films and sounds are told to do. */
const CALL = 'mediacall'

export interface Clicks {
  groups: EffectGroup[]
  /** Effects that leave nothing that a picture could show, or that wait for a press on something. */
  untaken: number
}

/** Milliseconds of a node's first condition; null for what waits for a click. */
function delayOf(timeNode: XmlNode): number | null {
  const [condition] = children(child(timeNode, 'stCondLst'), 'cond')
  return condition?.attrs.delay === 'indefinite' ? null : (numberOf(condition?.attrs.delay) ?? 0)
}

/** @see ECMA-376, part 1, §19.5.72 spTgt, §19.5.80 txEl, §19.5.45 graphicEl */
function targetOf(behaviour: XmlNode): { target: string; part: Part } | null {
  const shape = at(behaviour, 'cBhvr', 'tgtEl', 'spTgt')
  const target = shape?.attrs.spid
  if (!shape || target === undefined) return null
  const range = at(shape, 'txEl', 'pRg')
  if (range) return { target, part: { kind: 'paragraphs', from: Number(range.attrs.st), to: Number(range.attrs.end) } }
  // single letters, parts of embedded objects
  if (child(shape, 'txEl') || child(shape, 'subSp') || child(shape, 'oleChartEl')) return null
  if (child(shape, 'bg')) return { target, part: { kind: 'background' } }
  const graphic = child(shape, 'graphicEl')
  if (!graphic) return { target, part: { kind: 'whole' } }
  const { bldStep = '', seriesIdx, categoryIdx } = child(graphic, 'chart')?.attrs ?? {}
  if (/series/i.test(bldStep) && Number(seriesIdx) >= 0) return { target, part: { kind: 'series', index: Number(seriesIdx) } }
  if (/category/i.test(bldStep) && Number(categoryIdx) >= 0)
    return { target, part: { kind: 'category', index: Number(categoryIdx) } }
  return null
}

const ATTRIBUTES: Record<string, 'letters' | 'fill' | 'line'> = {
  'style.color': 'letters',
  fillcolor: 'fill',
  'fill.color': 'fill',
  'stroke.color': 'line',
}

const shares = (node: XmlNode | undefined) => {
  const [x, y] = [numberOf(node?.attrs.x?.replace('%', '000')), numberOf(node?.attrs.y?.replace('%', '000'))]
  return x === null || y === null ? null : { x: x / 100_000, y: y / 100_000 }
}

/** What one behaviour of an emphasis or a path leaves; null for nothing. */
function changeOf(behaviour: XmlNode, theme: Theme): Change | null {
  const timeNode = at(behaviour, 'cBhvr', 'cTn')
  if (timeNode?.attrs.autoRev === '1' || timeNode?.attrs.fill === 'remove') return null
  const attribute = at(behaviour, 'cBhvr', 'attrNameLst', 'attrName')?.text ?? ''
  switch (behaviour.name) {
    case 'animClr': {
      const [kind, colour] = [ATTRIBUTES[attribute], colourIn(child(behaviour, 'to'), theme)]
      return kind && colour ? { kind, colour } : null
    }
    case 'animMotion': {
      const end = endOfPath(behaviour.attrs.path ?? '')
      return end && { kind: 'move', ...end }
    }
    case 'animScale': {
      const by = shares(child(behaviour, 'by')) ?? shares(child(behaviour, 'to'))
      return by ? { kind: 'scale', ...by } : null
    }
    case 'animRot': {
      const degrees = (numberOf(behaviour.attrs.by) ?? 0) / 60_000
      return degrees % 360 === 0 ? null : { kind: 'turn', degrees }
    }
    case 'animEffect': {
      const opacity = /opacity:\s*([\d.]+)/.exec(behaviour.attrs.prLst ?? '')?.[1]
      return opacity === undefined ? null : { kind: 'opacity', value: Number(opacity) }
    }
    case 'set': {
      const to = at(behaviour, 'to', 'strVal')?.attrs.val ?? ''
      if (attribute === 'style.fontWeight' && to === 'bold') return { kind: 'bold' }
      if (attribute === 'style.fontStyle' && to === 'italic') return { kind: 'italic' }
      if (attribute === 'style.textDecorationUnderline' && to === 'true') return { kind: 'underline' }
      return attribute === 'style.opacity' && numberOf(to) !== null ? { kind: 'opacity', value: Number(to) } : null
    }
    default:
      return null
  }
}

/** @param timeNode `cTn` with a class */
function effectsOf(timeNode: XmlNode, theme: Theme, films: ReadonlySet<string>): Effect[] {
  const behaviours = child(timeNode, 'childTnLst')?.children ?? []
  const kind = timeNode.attrs.presetClass
  if (kind === CALL)
    return behaviours.flatMap((behaviour): Effect[] => {
      const target = at(behaviour, 'cBhvr', 'tgtEl', 'spTgt')?.attrs.spid ?? ''
      const begins = /^(play|togglePause)/.test(behaviour.attrs.cmd ?? '')
      return begins && films.has(target) ? [{ target, part: { kind: 'whole' }, change: { kind: 'play' } }] : []
    })
  if (kind === 'entr' || kind === 'exit') {
    const found = behaviours.map(targetOf).find((target) => target !== null)
    return found ? [{ ...found, change: { kind: kind === 'entr' ? 'show' : 'hide' } }] : []
  }
  if (timeNode.attrs.autoRev === '1' || timeNode.attrs.fill === 'remove') return []
  return behaviours.flatMap((behaviour): Effect[] => {
    const [found, change] = [targetOf(behaviour), changeOf(behaviour, theme)]
    return found && change ? [{ ...found, change }] : []
  })
}

/** Time nodes of effects with the milliseconds after which each begins, from their click on. */
function timed(node: XmlNode, begin: number): { timeNode: XmlNode; at: number }[] {
  return node.children.flatMap((inner) => {
    if (!/^(par|seq|excl)$/.test(inner.name)) return []
    const timeNode = child(inner, 'cTn')
    if (!timeNode) return []
    const at = begin + (delayOf(timeNode) ?? 0)
    if (CLASSES.test(timeNode.attrs.presetClass ?? '') || timeNode.attrs.presetClass === CALL) return [{ timeNode, at }]
    const list = child(timeNode, 'childTnLst')
    return list ? timed(list, at) : []
  })
}

/** @param slide `p:sld` @param films ids of the shapes that are films */
export function readClicks(slide: XmlNode, theme: Theme, films: ReadonlySet<string> = new Set()): Clicks {
  const timing = child(slide, 'timing')
  const all = below(timing, 'cTn').filter(({ attrs }) => CLASSES.test(attrs.presetClass ?? ''))
  const [main] = below(timing, 'cTn').filter(({ attrs }) => attrs.nodeType === 'mainSeq')
  let taken = 0
  const clicks = children(child(main, 'childTnLst'), 'par').flatMap((outer): Click[] => {
    const list = at(outer, 'cTn', 'childTnLst')
    const inside = list ? timed(list, 0) : []
    return [
      {
        byClick: inside[0]?.timeNode.attrs.nodeType === 'clickEffect',
        effects: inside.map(({ timeNode, at: begins }) => {
          const effects = effectsOf(timeNode, theme, films)
          if (effects.length > 0 && timeNode.attrs.presetClass !== CALL) taken++
          return { effects, at: begins / 1000, delay: (delayOf(timeNode) ?? 0) / 1000 }
        }),
      },
    ]
  })
  return { groups: groupsOf(clicks), untaken: all.length - taken }
}
