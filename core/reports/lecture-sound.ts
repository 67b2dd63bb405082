/** How the slides of a lecture sound beside each other. */

import { keptTake } from '#core/model/kept-take.ts'
import type { Lecture } from '#core/model/lecture.ts'

export interface BeforeAfter {
  before: number | null
  after: number | null
}

export interface SlideSound {
  slideId: string
  /** Place in the lecture, from 1. */
  number: number
  title: string
  /** LUFS. */
  voice: BeforeAfter
  /** dBFS between the words. */
  room: BeforeAfter
  /** Strength of cleaning, 0 to 1. */
  cleaning: number
}

/** @returns one entry for each slide with a kept take that was analysed, in order */
export function lectureSound(lecture: Lecture): SlideSound[] {
  return lecture.slides.flatMap((slide, i) => {
    const take = keptTake(slide)
    if (!take?.analysis || !take.tidyUp) return []
    const figures = take.clip?.figures
    return {
      slideId: slide.id,
      number: i + 1,
      title: slide.title,
      voice: { before: take.analysis.loudnessLufs, after: figures?.loudnessLufs ?? null },
      room: { before: take.analysis.noiseFloorDb, after: figures?.noiseFloorDb ?? null },
      cleaning: take.tidyUp.cleaning,
    }
  })
}

/** @returns difference between the loudest and the quietest slide, LU; null with fewer than two */
export function loudnessSpread(sounds: readonly SlideSound[], which: keyof BeforeAfter): number | null {
  const values = sounds.flatMap((s) => s.voice[which] ?? [])
  return values.length < 2 ? null : Math.max(...values) - Math.min(...values)
}
