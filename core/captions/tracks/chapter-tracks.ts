/** Chapters from files: each stands at a moment of a slide, moves with it, and lasts until the next one. */

import type { StoredCue } from '#core/model/caption.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { schedule } from '#core/timing/schedule.ts'
import { type Message, message } from '#core/words/say.ts'
import type { CueOfFile, PlacedCue } from './place-cues.ts'

/** A chapter this near to the beginning of a slide is meant to begin with it. */
const NEAR_S = 0.25

/**
 * @param slideId whose clock the chapters are on; null for the lecture's
 * @returns chapters as they are stored, in seconds of their slide whatever is recorded on it, and by line what was left out
 */
export function placeChapters(
  lecture: Lecture,
  cues: readonly CueOfFile[],
  slideId: string | null = null,
): { placed: PlacedCue[]; problems: { line: number; message: Message }[] } {
  const { slides } = schedule(lecture)
  const own = slides.filter((slide) => slideId === null || slide.slideId === slideId)
  const offset = slideId === null ? 0 : toSeconds(own[0]?.startSamples ?? 0)
  const placed: PlacedCue[] = []
  const problems: { line: number; message: Message }[] = []
  for (const { line, start, end, text, markup } of cues) {
    const at = start + offset
    const slide = own.findLast(({ startSamples }) => toSeconds(startSamples) <= at + NEAR_S)
    if (!slide || at >= toSeconds(slide.startSamples + slide.lengthSamples)) {
      problems.push({ line, message: message('This chapter begins outside of every slide, so it was left out.') })
      continue
    }
    const from = at - toSeconds(slide.startSamples)
    const begins = Math.abs(from) < NEAR_S ? 0 : from
    const rest = { takeId: null, settings: '', needsReview: false, scriptText: '', manualEdit: null }
    placed.push({ slideId: slide.slideId, start: begins, end: begins + (end - start), text, markup, ...rest })
  }
  return { placed, problems }
}

export interface LectureChapter {
  slideId: string
  /** Seconds of the lecture. */
  start: number
  end: number
  text: string
  markup: string | null
  settings: string
}

/** @returns chapters in order, without those of hidden slides; each lasts until the next, the last one until the end */
export function chaptersOnLecture(lecture: Lecture, chapters: readonly StoredCue[]): LectureChapter[] {
  const { slides, lengthSamples } = schedule(lecture)
  const starts = new Map(slides.map(({ slideId, startSamples }) => [slideId, toSeconds(startSamples)]))
  const lengths = new Map(slides.map((slide) => [slide.slideId, toSeconds(slide.lengthSamples)]))
  const begun = chapters
    .flatMap(({ slideId, start, text, markup }) => {
      const from = starts.get(slideId)
      // a slide that was recorded again, and is shorter now, keeps its chapters
      return from === undefined
        ? []
        : [{ slideId, start: from + Math.min(start, lengths.get(slideId)!), text, markup, settings: '' }]
    })
    .sort((a, b) => a.start - b.start)
  return begun.map((chapter, i) => ({ ...chapter, end: begun[i + 1]?.start ?? toSeconds(lengthSamples) }))
}
