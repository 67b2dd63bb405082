/** Cues between the lecture's clock, where files and viewers have them, and take time, where they are stored. */

import type { StoredCue } from '#core/model/caption.ts'
import { keptTake } from '#core/model/kept-take.ts'
import type { Lecture } from '#core/model/lecture.ts'
import type { Slide } from '#core/model/slide.ts'
import { type LectureSeconds, slideSeconds, takeSeconds, toSeconds } from '#core/timing/clocks.ts'
import { schedule, toLecture } from '#core/timing/schedule.ts'
import type { ScheduledSlide } from '#core/timing/scheduled.ts'
import { timeMap } from '#core/timing/time-map.ts'
import { type Message, message } from '#core/words/say.ts'

const SHORTEST_REST_S = 0.1
/** What a cue reaches over its slide by rounding is not worth a word. */
const OVER_S = 0.05

export interface LectureCue {
  id: string
  slideId: string
  start: LectureSeconds
  end: LectureSeconds
  text: string
  markup: string | null
  settings: string
  needsReview: boolean
  /** A recogniser wrote it, and nobody has checked it. */
  isHeard?: boolean
}

/** The span of one stored cue on its slide's clock; null when its take is not the one heard or its words were cut out. */
function onSlide(slide: Slide, leadSamples: number, cue: StoredCue) {
  const take = keptTake(slide)
  if (cue.takeId === null) return take?.tidyUp ? null : { start: slideSeconds(cue.start), end: slideSeconds(cue.end) }
  if (take?.id !== cue.takeId || !take.tidyUp) return null
  return timeMap(take.tidyUp, toSeconds(leadSamples)).spanToSlide(takeSeconds(cue.start), takeSeconds(cue.end))
}

/**
 * Stored cues as viewers see them.
 *
 * @returns cues on the lecture's clock, in order; those of hidden slides and removed words are left out; none reaches past its slide
 */
export function cuesOnLecture(lecture: Lecture, cues: readonly StoredCue[]): LectureCue[] {
  const scheduled = new Map(schedule(lecture).slides.map((s) => [s.slideId, s]))
  const owners = new Map(lecture.slides.map((s) => [s.id, s]))
  return cues
    .flatMap((cue) => {
      // left out on purpose, or not typed yet
      if (cue.text === '') return []
      const slide = scheduled.get(cue.slideId)
      const span = slide && onSlide(owners.get(cue.slideId)!, slide.leadSamples, cue)
      if (!slide || !span) return []
      const end = Math.min(span.end, toSeconds(slide.lengthSamples))
      // what a cut has left of a caption must be long enough to be seen
      if (end - span.start < Math.min(SHORTEST_REST_S, cue.end - cue.start)) return []
      const { id, slideId, text, markup, settings, needsReview } = cue
      return [
        {
          id,
          slideId,
          start: toLecture(slide, span.start),
          end: toLecture(slide, slideSeconds(end)),
          text,
          markup,
          settings,
          needsReview,
          isHeard: cue.manualEdit === 'heard',
        },
      ]
    })
    .sort((a, b) => a.start - b.start)
}

/** @returns where somebody is heard, on the lecture's clock, in order */
export function speechOnLecture(lecture: Lecture): { start: number; end: number }[] {
  const owners = new Map(lecture.slides.map((s) => [s.id, s]))
  return schedule(lecture).slides.flatMap((slide) => {
    const take = keptTake(owners.get(slide.slideId)!)
    if (!take?.tidyUp || !take.analysis) return []
    const map = timeMap(take.tidyUp, toSeconds(slide.leadSamples))
    return take.analysis.speech.flatMap(({ start, end }) => {
      const heard = map.spanToSlide(takeSeconds(toSeconds(start)), takeSeconds(toSeconds(end)))
      return heard ? [{ start: toLecture(slide, heard.start), end: toLecture(slide, heard.end) }] : []
    })
  })
}

export type PlacedCue = Omit<StoredCue, 'id'>

/** A cue of a file, on the lecture's clock or on that of one slide. */
export interface CueOfFile {
  start: number
  end: number
  text: string
  markup: string | null
  settings: string
  /** Where it stands in its file. */
  line: number
}

const BESIDE_SCRIPT = { needsReview: false, scriptText: '', manualEdit: null } as const

/** The part of a cue that a slide shows, in seconds of the slide. */
function onOneSlide(
  lecture: Lecture,
  slide: ScheduledSlide,
  from: number,
  to: number,
): Pick<PlacedCue, 'takeId' | 'start' | 'end'> | null {
  const take = keptTake(lecture.slides.find((s) => s.id === slide.slideId)!)
  if (!take?.tidyUp) return { takeId: null, start: from, end: to }
  const map = timeMap(take.tidyUp, toSeconds(slide.leadSamples))
  const clipFrom = toSeconds(slide.leadSamples)
  const clipTo = toSeconds(slide.leadSamples + slide.clipSamples)
  const start = map.toTake(slideSeconds(Math.min(Math.max(from, clipFrom), clipTo - 0.01)))
  const end = map.toTake(slideSeconds(Math.min(Math.max(to, clipFrom + 0.01), clipTo - 1e-6)))
  return start === null || end === null || end <= start ? null : { takeId: take.id, start, end }
}

/**
 * Takes cues of a whole lecture, or of one slide, to the slides they fall on. A cue over a slide change goes to the slide that has
 * more of it, cut at the change, and that is said.
 *
 * @param slideId whose clock the cues are on; null for the lecture's
 * @returns cues as they are stored, and by line what was moved or left out
 */
export function placeCues(
  lecture: Lecture,
  cues: readonly CueOfFile[],
  slideId: string | null = null,
): { placed: PlacedCue[]; problems: { line: number; message: Message }[] } {
  const plan = schedule(lecture)
  const slides = slideId === null ? plan.slides : plan.slides.filter((s) => s.slideId === slideId)
  const offset = slideId === null ? 0 : toSeconds(slides[0]?.startSamples ?? 0)
  const placed: PlacedCue[] = []
  const problems: { line: number; message: Message }[] = []
  for (const { line, start: cueStart, end: cueEnd, text, markup, settings } of cues) {
    const [cueFrom, cueTo] = [cueStart + offset, cueEnd + offset]
    const share = (s: ScheduledSlide) =>
      Math.min(cueTo, toSeconds(s.startSamples + s.lengthSamples)) - Math.max(cueFrom, toSeconds(s.startSamples))
    const slide = slides.reduce<ScheduledSlide | null>(
      (best, s) => (share(s) > Math.max(0, best ? share(best) : 0) ? s : best),
      null,
    )
    if (!slide) {
      problems.push({
        line,
        message:
          slideId === null
            ? message('This cue lies outside every slide, so it was left out.')
            : message('This cue lies outside this slide, so it was left out.'),
      })
      continue
    }
    const from = cueFrom - toSeconds(slide.startSamples)
    const to = cueTo - toSeconds(slide.startSamples)
    const length = toSeconds(slide.lengthSamples)
    const span = onOneSlide(lecture, slide, Math.max(0, from), Math.min(length, to))
    if (!span) {
      problems.push({ line, message: message('This cue lies where the slide is silent, so it was left out.') })
      continue
    }
    if (from < -OVER_S || to > length + OVER_S) {
      const number = plan.slides.indexOf(slide) + 1
      problems.push({
        line,
        message: message('This cue reaches over a change of slide; it was put on slide {number} and ends there.', { number }),
      })
    }
    placed.push({ slideId: slide.slideId, ...span, text, markup, settings, ...BESIDE_SCRIPT })
  }
  return { placed, problems }
}
