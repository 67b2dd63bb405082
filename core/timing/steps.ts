/** When the further steps of a slide appear. */
import { keptTake } from '#core/model/kept-take.ts'
import type { Slide } from '#core/model/slide.ts'
import { type SlideSeconds, slideSeconds, takeSeconds, toSamples, toSeconds } from './clocks.ts'
import { type ScheduledSlide, SHORTEST_STEP_S, TRANSITION_FRAME, transitionSamples } from './scheduled.ts'
import { timeMap } from './time-map.ts'

export interface StepStart {
  stepId: string
  at: SlideSeconds
  /** Who says the moment: somebody, the words that stand on the picture, or nothing, so that it is spread over what is left. */
  by: 'hand' | 'words' | 'spread'
}

/**
 * Moments at which the steps of a slide appear, in order. The first is there from the start; one whose moment was cut out of the
 * take appears where the cut is; one that nobody set comes where its words are said, or after the time its deck has for it; the others are
 * spread evenly between their neighbours. On a slide without a voice each stays until its films have been shown.
 *
 * @returns one entry a step, ascending, all before the slide's end
 */
export function stepStarts(
  slide: Pick<Slide, 'steps' | 'takes' | 'keptTakeId'>,
  scheduled: Pick<ScheduledSlide, 'leadSamples' | 'clipSamples' | 'lengthSamples' | 'filmlessSamples' | 'transition' | 'films'>,
): StepStart[] {
  const take = keptTake(slide)
  const end = toSeconds(scheduled.lengthSamples)
  const spoken = scheduled.clipSamples > 0
  if (!spoken && slide.steps.some((step) => step.films.length > 0)) return silentStarts(slide, scheduled)
  const from = spoken ? toSeconds(scheduled.leadSamples) : 0
  const to = spoken ? from + toSeconds(scheduled.clipSamples) : end
  const map = take?.tidyUp && spoken ? timeMap(take.tidyUp, toSeconds(scheduled.leadSamples)) : null
  const places = slide.steps.map((step): { at: number; by: StepStart['by'] } | null => {
    const [set, heard] = [take?.stepMoments?.[step.id], take?.heardMoments?.[step.id]]
    const moment = set ?? heard
    if (moment === undefined || !map) return null
    // a moment after all that is left of the take comes with its last sound
    const at = map.spanToSlide(takeSeconds(moment), takeSeconds(Number.MAX_SAFE_INTEGER))?.start ?? to
    return { at, by: set === undefined ? 'words' : 'hand' }
  })
  places[0] = { at: from, by: 'hand' }
  let before = toSeconds((scheduled.transition?.frames ?? 0) * TRANSITION_FRAME)
  return slide.steps.map((step, i): StepStart => {
    if (i === 0) return { stepId: step.id, at: slideSeconds(0), by: 'hand' }
    const { at: wanted, by } = places[i] ?? { at: spreadAt(places, i, to, slide.steps), by: 'spread' }
    const left = (slide.steps.length - i) * SHORTEST_STEP_S
    const at = Math.min(Math.max(wanted, before + SHORTEST_STEP_S), Math.max(before, end - left))
    before = at
    // what follows after a time follows the place its picture got
    if (places[i] === null) places[i] = { at, by: 'spread' }
    return { stepId: step.id, at: slideSeconds(at), by }
  })
}

/** Without a voice each step has its share of the time; one with films stays until they have been shown. */
function silentStarts(
  slide: Pick<Slide, 'steps'>,
  { films, filmlessSamples, transition }: Pick<ScheduledSlide, 'films' | 'filmlessSamples' | 'transition'>,
): StepStart[] {
  const changed = toSeconds(transitionSamples(transition))
  const share = toSeconds(filmlessSamples) / slide.steps.length
  let at = 0
  return slide.steps.map((step, i): StepStart => {
    const start: StepStart = { stepId: step.id, at: slideSeconds(at), by: i === 0 ? 'hand' : 'spread' }
    const waiting = new Set(step.films.filter((film) => film.waits).map((film) => film.id))
    const ends = films
      .filter((film) => waiting.has(film.filmId))
      .map((film) => toSeconds(film.startSamples + film.onceSamples) - at)
    const stays = slide.steps[i + 1]?.afterSeconds ?? Math.max(share, ...ends)
    at = Math.max(at + stays, changed + SHORTEST_STEP_S, at + SHORTEST_STEP_S)
    return start
  })
}

/** Where a picture comes that nothing is known of: after the time its deck has for it, else evenly between the known ones about it. */
function spreadAt(
  places: readonly ({ at: number } | null)[],
  i: number,
  to: number,
  steps: readonly { afterSeconds: number | null }[],
): number {
  const before = places[i - 1]!.at
  const after = steps[i]?.afterSeconds ?? null
  if (after !== null) return before + after
  const next = places.findIndex((place, k) => k > i && place !== null)
  const [until, parts] = next < 0 ? [to, places.length - i + 1] : [places[next]!.at, next - i + 1]
  return before + Math.max(0, until - before) / parts
}

/** @returns index of the step seen at a moment of the slide */
export function stepAt(starts: readonly StepStart[], moment: SlideSeconds): number {
  // a frame belongs to the step that begins within it
  const tolerance = 0.5 / toSamples(1)
  return Math.max(
    0,
    starts.findLastIndex((s) => s.at <= moment + tolerance),
  )
}
