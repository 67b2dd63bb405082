/** How a slide takes over from the one before it, and how long it stays. @see ECMA-376, part 1, §19.3.1.50 transition */
import { nearestTransition } from '../transitions.ts'
import { child, numberOf, TEXT, type XmlNode } from '../xml.ts'

const SPEEDS: Record<string, number> = { slow: 1, med: 0.75, fast: 0.5 }

/** @param slide `p:sld` */
export function transitionOf(slide: XmlNode) {
  const node = child(slide, 'transition')
  const kind = node?.children.find((c) => c.name !== TEXT && !/^(sndAc|extLst)$/.test(c.name))?.name
  const { spd, dur } = { spd: node?.attrs.spd ?? 'fast', dur: numberOf(node?.attrs['p14:dur']) }
  return {
    advanceMs: numberOf(node?.attrs.advTm),
    transition: kind === undefined ? null : nearestTransition(kind, dur === null ? (SPEEDS[spd] ?? 0.5) : dur / 1000),
  }
}
