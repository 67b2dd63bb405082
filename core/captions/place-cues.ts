/** Cues between the lecture's clock, where files and viewers have them, and take time, where they are stored. */
import { keptTake, type Lecture, type Slide, type StoredCue } from '#core/lecture.ts'
import { type LectureSeconds, slideSeconds, takeSeconds, toSeconds } from '#core/timing/clocks.ts'
import { type ScheduledSlide, schedule, toLecture } from '#core/timing/schedule.ts'
import { timeMap } from '#core/timing/time-map.ts'

const SHORTEST_REST_S = 0.1

export interface LectureCue {
  id: string
  slideId: string
  start: LectureSeconds
  end: LectureSeconds
  text: string
  settings: string
  doubtful: boolean
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
      const slide = scheduled.get(cue.slideId)
      const span = slide && onSlide(owners.get(cue.slideId)!, slide.leadSamples, cue)
      if (!slide || !span) return []
      const end = Math.min(span.end, toSeconds(slide.lengthSamples))
      // what a cut has left of a caption must be long enough to be seen
      if (end - span.start < Math.min(SHORTEST_REST_S, cue.end - cue.start)) return []
      const { id, slideId, text, settings, doubtful } = cue
      return [
        { id, slideId, start: toLecture(slide, span.start), end: toLecture(slide, slideSeconds(end)), text, settings, doubtful },
      ]
    })
    .sort((a, b) => a.start - b.start)
}

export interface PlacedCue extends Omit<StoredCue, 'id' | 'doubtful'> {}

/**
 * Takes cues of a whole lecture to the slides they fall on. A cue over a slide change goes to the slide that has more of it,
 * cut at the change.
 *
 * @param cues on the lecture's clock; `line` is where the cue stands in its file
 * @returns cues as they are stored, and by line those that fall on no slide
 */
export function placeCues(
  lecture: Lecture,
  cues: readonly { start: number; end: number; text: string; settings: string; line: number }[],
): { placed: PlacedCue[]; problems: { line: number; message: string }[] } {
  const plan = schedule(lecture)
  const placed: PlacedCue[] = []
  const problems: { line: number; message: string }[] = []
  for (const cue of cues) {
    const share = (s: ScheduledSlide) =>
      Math.min(cue.end, toSeconds(s.startSamples + s.lengthSamples)) - Math.max(cue.start, toSeconds(s.startSamples))
    const slide = plan.slides.reduce<ScheduledSlide | null>(
      (best, s) => (share(s) > Math.max(0, best ? share(best) : 0) ? s : best),
      null,
    )
    if (!slide) {
      problems.push({ line: cue.line, message: 'This cue lies outside every slide, so it was left out.' })
      continue
    }
    const from = Math.max(0, cue.start - toSeconds(slide.startSamples))
    const to = Math.min(toSeconds(slide.lengthSamples), cue.end - toSeconds(slide.startSamples))
    const owner = lecture.slides.find((s) => s.id === slide.slideId)!
    const take = keptTake(owner)
    if (!take?.tidyUp) {
      placed.push({ slideId: slide.slideId, takeId: null, start: from, end: to, text: cue.text, settings: cue.settings })
      continue
    }
    const map = timeMap(take.tidyUp, toSeconds(slide.leadSamples))
    const clipFrom = toSeconds(slide.leadSamples)
    const clipTo = toSeconds(slide.leadSamples + slide.clipSamples)
    const start = map.toTake(slideSeconds(Math.min(Math.max(from, clipFrom), clipTo - 0.01)))
    const end = map.toTake(slideSeconds(Math.min(Math.max(to, clipFrom + 0.01), clipTo - 1e-6)))
    if (start === null || end === null || end <= start) {
      problems.push({ line: cue.line, message: 'This cue lies where the slide is silent, so it was left out.' })
      continue
    }
    placed.push({ slideId: slide.slideId, takeId: take.id, start, end, text: cue.text, settings: cue.settings })
  }
  return { placed, problems }
}
