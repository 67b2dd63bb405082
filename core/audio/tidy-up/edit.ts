/** Edits of a tidyUp by hand, as functions from one recipe to the next. Positions are samples of the take. */
import type { Mark } from '#core/model/marks.ts'
import type { SampleRange } from '#core/model/sample-range.ts'
import type { TakeAnalysis } from '#core/model/take.ts'
import type { TidyUp } from '#core/model/tidy-up.ts'
import { toSamples } from '#core/timing/clocks.ts'
import { keptStretches } from '#core/timing/time-map.ts'
import { pauseCuts } from './trim-pauses.ts'

/** Less than this between the curtains would be no clip. */
const SHORTEST = toSamples(0.1)

/** Stretches without what lies in another one. */
function without(stretches: readonly SampleRange[], { start, end }: SampleRange): SampleRange[] {
  return stretches.flatMap((s) =>
    [
      { start: s.start, end: Math.min(s.end, start) },
      { start: Math.max(s.start, end), end: s.end },
    ].filter((piece) => piece.end > piece.start),
  )
}

/** Sorted, with those that touch or overlap made one. */
function merged(stretches: readonly SampleRange[]): SampleRange[] {
  const out: SampleRange[] = []
  for (const s of [...stretches].sort((a, b) => a.start - b.start)) {
    const last = out.at(-1)
    if (last && s.start <= last.end) last.end = Math.max(last.end, s.end)
    else out.push({ ...s })
  }
  return out
}

/** Takes a stretch out. @returns the recipe itself when nothing would be left to hear */
export function cutOut(recipe: TidyUp, stretch: SampleRange): TidyUp {
  const next = { ...recipe, cuts: merged([...recipe.cuts, stretch]) }
  return keptStretches(next).length === 0 ? recipe : next
}

/** Takes out every slip that was said again at once. It can be put back like any other cut. */
export function cutSlips(recipe: TidyUp, marks: readonly Mark[]): TidyUp {
  return marks.reduce(
    (cut, mark) => (mark.kind === 'pick-up' && mark.at > mark.from ? cutOut(cut, { start: mark.from, end: mark.at }) : cut),
    recipe,
  )
}

/** A stretch and the whole of the cuts that touch it: what comes back when all that went with it comes back. */
export function withWholeCuts({ cuts }: Pick<TidyUp, 'cuts'>, { start, end }: SampleRange): SampleRange {
  const touched = cuts.filter((cut) => cut.end > start && cut.start < end)
  return {
    start: Math.min(start, ...touched.map((cut) => cut.start)),
    end: Math.max(end, ...touched.map((cut) => cut.end)),
  }
}

/** Puts back whatever was taken out of a stretch: cuts, shortened pauses, silence, gains; and opens the curtains over it. */
export function putBack(recipe: TidyUp, stretch: SampleRange): TidyUp {
  return {
    ...recipe,
    kept: { start: Math.min(recipe.kept.start, stretch.start), end: Math.max(recipe.kept.end, stretch.end) },
    cuts: without(recipe.cuts, stretch),
    pauseCuts: without(recipe.pauseCuts, stretch),
    silenced: without(recipe.silenced, stretch),
    gains: recipe.gains.filter((g) => g.stretch.end <= stretch.start || g.stretch.start >= stretch.end),
  }
}

/** Lets only the room be heard in a stretch. */
export function silenceOut(recipe: TidyUp, stretch: SampleRange): TidyUp {
  return { ...recipe, silenced: merged([...recipe.silenced, stretch]) }
}

/** Makes a stretch louder or quieter; what was set there before is replaced. */
export function gainOver(recipe: TidyUp, stretch: SampleRange, db: number): TidyUp {
  const others = recipe.gains.flatMap((g) => without([g.stretch], stretch).map((piece) => ({ stretch: piece, db: g.db })))
  const gains = db === 0 ? others : [...others, { stretch, db }]
  return { ...recipe, gains: gains.sort((a, b) => a.stretch.start - b.stretch.start) }
}

/** Moves a curtain; it stays inside the take and does not pass the other one. @param length of the take */
export function moveCurtain(recipe: TidyUp, side: 'start' | 'end', to: number, length: number): TidyUp {
  const { start, end } = recipe.kept
  const kept =
    side === 'start'
      ? { start: Math.round(Math.max(0, Math.min(to, end - SHORTEST))), end }
      : { start, end: Math.round(Math.min(length, Math.max(to, start + SHORTEST))) }
  return kept.end > kept.start ? { ...recipe, kept } : recipe
}

/** Sets the longest pause, and what that takes out of this take. @param seconds null leaves all pauses */
export function limitPauses(recipe: TidyUp, analysis: Pick<TakeAnalysis, 'speech'>, seconds: number | null): TidyUp {
  return {
    ...recipe,
    longestPauseSeconds: seconds,
    pauseCuts: seconds === null ? [] : pauseCuts(analysis.speech, seconds),
  }
}

/** The settings that are about the room and the voice, not about one take's words: what "the same for all slides" carries over. */
export type RoomSettings = Pick<TidyUp, 'cleaning' | 'highPassHz' | 'hum' | 'clicks' | 'level' | 'longestPauseSeconds'>

export function withRoomSettings(recipe: TidyUp, settings: RoomSettings, analysis: Pick<TakeAnalysis, 'speech'>): TidyUp {
  const { cleaning, highPassHz, hum, clicks, level, longestPauseSeconds } = settings
  return limitPauses({ ...recipe, cleaning, highPassHz, hum, clicks, level }, analysis, longestPauseSeconds)
}
