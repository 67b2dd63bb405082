/** Ways in which decks let a slide take over from the one before it, as the nearest of ours. */
import type { Transition } from '#core/model/transition.ts'

/** What a lecture's transitions may last, seconds. */
const [SHORTEST_S, LONGEST_S] = [0.2, 1.5]

/** Kinds that move both pictures, or that uncover the new one along a line; what is not named here fades. */
const KINDS: Record<string, Transition['kind']> = {
  // ECMA-376, part 1, §19.5: the elements of a transition
  cut: 'none',
  push: 'push',
  wipe: 'wipe',
  cover: 'wipe',
  pull: 'wipe',
  split: 'wipe',
  strips: 'wipe',
  blinds: 'wipe',
  comb: 'wipe',
  randomBar: 'wipe',
  wedge: 'wipe',
  wheel: 'wipe',
  // SMIL 2.0, §12 (transition effects), as OpenDocument names them
  barWipe: 'wipe',
  pushWipe: 'push',
  slideWipe: 'wipe',
  blindsWipe: 'wipe',
  randomBarWipe: 'wipe',
  diagonalWipe: 'wipe',
  waterfallWipe: 'wipe',
}

/** @param seconds as the deck has it */
export function nearestTransition(kind: string, seconds: number): Transition {
  const length = Number.isFinite(seconds) ? seconds : 0.5
  return { kind: KINDS[kind] ?? 'cross-fade', seconds: Math.min(LONGEST_S, Math.max(SHORTEST_S, Number(length.toFixed(2)))) }
}
