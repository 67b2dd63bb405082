/** How far a lecture is: what the shelf shows. */

import { keptTake } from '#core/model/kept-take.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { schedule } from '#core/timing/schedule.ts'

export interface LectureSummary {
  id: string
  title: string
  slides: number
  narrated: number
  captioned: number
  seconds: number
  /** Small pictures of the first slides. */
  thumbnails: string[]
  /** The first shown slide without sound; null when all have some. */
  nextToRecord: string | null
}

const PICTURES = 4

/** @returns counts over shown slides only */
export function summary(lecture: Lecture): LectureSummary {
  const shown = lecture.slides.filter((slide) => !slide.hidden)
  const captioned = new Set(lecture.captionTracks.flatMap((track) => track.cues.map((cue) => `${cue.slideId} ${cue.takeId}`)))
  return {
    id: lecture.id,
    title: lecture.title,
    slides: shown.length,
    narrated: shown.filter((slide) => keptTake(slide)).length,
    captioned: shown.filter((slide) => captioned.has(`${slide.id} ${slide.keptTakeId}`)).length,
    seconds: toSeconds(schedule(lecture).lengthSamples),
    thumbnails: shown.slice(0, PICTURES).flatMap((slide) => slide.steps[0]?.thumbnail ?? []),
    nextToRecord: shown.find((slide) => !keptTake(slide))?.id ?? null,
  }
}
