/** How a page takes over from the one before it. @see OpenDocument 1.3, part 3, §20.231 presentation:transition-style, §20.390 smil:type */
import type { Transition } from '#core/model/transition.ts'
import { nearestTransition } from '../transitions.ts'
import type { XmlNode } from '../xml.ts'
import { property } from './styles.ts'

const SPEEDS: Record<string, number> = { slow: 1, medium: 0.75, fast: 0.5 }

/** Styles of before SMIL was taken up, in words: `fade-from-left` and the like. */
function kindOfStyle(style: string): string | null {
  if (style === 'none') return null
  if (/^(fade|dissolve)/.test(style)) return 'fade'
  return /^(move|roll)/.test(style) ? 'pushWipe' : 'barWipe'
}

/** @param look styles of the page, the nearest last */
export function transitionOf(look: readonly XmlNode[]): Transition | null {
  const said = (name: string) => property(look, 'drawing-page-properties', name)
  const kind = said('smil:type') ?? kindOfStyle(said('presentation:transition-style') ?? 'none')
  return kind === null ? null : nearestTransition(kind, SPEEDS[said('presentation:transition-speed') ?? 'fast'] ?? 0.5)
}
