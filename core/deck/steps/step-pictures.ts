/** The pictures that a slide's clicks make of it, and the words that come with each. */
import type { DeckStep, Drawing } from '../deck.ts'
import { visibleText } from './place.ts'
import { type EffectGroup, type SlideState, slideStates } from './steps.ts'

/** A slide that changes oftener is taken as a film: what it ends with is shown. */
const MOST_STEPS = 60

export interface StepPictures {
  drawing: Drawing
  /** Films that begin with it, by their shapes' names. */
  plays: string[]
  steps: (Omit<DeckStep, 'films'> & { plays: string[] })[]
  /** Effects that no picture shows. */
  untaken: number
}

/** Lines of a picture that the one before it does not have. */
function newLines(before: readonly string[], now: readonly string[]): string[] {
  const left = [...before]
  return now.filter((line) => {
    const at = left.indexOf(line)
    if (at >= 0) left.splice(at, 1)
    return at < 0
  })
}

/** The last groups alone; the first of them leaves what all before it left. */
function lastOf(groups: readonly EffectGroup[]): readonly EffectGroup[] {
  const over = groups.length - MOST_STEPS
  if (over <= 0) return groups
  const first = { ...groups[over]!, effects: groups.slice(0, over + 1).flatMap(({ effects }) => effects) }
  return [first, ...groups.slice(over + 1)]
}

/** @param draw the slide as it stands in a state */
export function stepPictures(
  { groups, untaken }: { groups: readonly EffectGroup[]; untaken: number },
  draw: (state: SlideState) => Drawing,
): StepPictures {
  const states = slideStates(lastOf(groups))
  const steps: StepPictures['steps'] = []
  const drawing = draw(states[0]!.state)
  let [before, beforeKey] = [drawing, JSON.stringify(drawing.items)]
  let unseen = 0
  const begun = new Set<string>()
  const newlyPlaying = (state: SlideState) => {
    const plays = [...state].flatMap(([target, { plays: isPlaying }]) => (isPlaying && !begun.has(target) ? [target] : []))
    for (const target of plays) begun.add(target)
    return plays
  }
  const plays = newlyPlaying(states[0]!.state)
  for (const { state, afterSeconds } of states.slice(1)) {
    const next = draw(state)
    const key = JSON.stringify(next.items)
    const beginning = newlyPlaying(state)
    // what changes nothing that is drawn, and moves nothing, is no step
    if (key === beforeKey && beginning.length === 0) {
      unseen++
      continue
    }
    const text = newLines(visibleText(before.items), visibleText(next.items)).join('\n')
    steps.push({ drawing: next, text, afterSeconds, plays: beginning })
    ;[before, beforeKey] = [next, key]
  }
  return { drawing, plays, steps, untaken: untaken + unseen + Math.max(0, groups.length - MOST_STEPS) }
}
