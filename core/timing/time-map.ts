/** Carries moments from take time to slide time and back, through a tidyUp. */
import type { SampleRange } from '#core/model/sample-range.ts'
import type { TidyUp } from '#core/model/tidy-up.ts'
import { SAMPLE_RATE, type SlideSeconds, slideSeconds, type TakeSeconds, takeSeconds, toSamples, toSeconds } from './clocks.ts'

/** What of a tidyUp decides which samples are heard. */
export type Removal = Pick<TidyUp, 'kept' | 'cuts'> & Partial<Pick<TidyUp, 'pauseCuts' | 'tempo'>>

/**
 * The stretches of a take that are heard, in order.
 *
 * @param tidyUp curtains and cuts, in samples of the take; cuts may touch, overlap or reach past the curtains
 * @returns kept stretches in samples; empty when the cuts take everything
 */
export function keptStretches(tidyUp: Removal): SampleRange[] {
  const kept: SampleRange[] = []
  let at = tidyUp.kept.start
  for (const cut of [...tidyUp.cuts, ...(tidyUp.pauseCuts ?? [])].sort((a, b) => a.start - b.start)) {
    const end = Math.min(cut.start, tidyUp.kept.end)
    if (end > at) kept.push({ start: at, end })
    at = Math.max(at, cut.end)
  }
  if (tidyUp.kept.end > at) kept.push({ start: at, end: tidyUp.kept.end })
  return kept
}

/** @returns length in samples of the clip that a tidyUp leaves */
export function clipSamples(tidyUp: Removal): number {
  const kept = keptStretches(tidyUp).reduce((sum, s) => sum + s.end - s.start, 0)
  return Math.round(kept / (tidyUp.tempo ?? 1))
}

/** Where something was taken out of the middle, as seen in the clip: the place of the join and how much is missing. */
export function joinsOf(tidyUp: Removal): { at: number; samples: number }[] {
  const kept = keptStretches(tidyUp)
  let before = 0
  return kept.flatMap((stretch, i) => {
    const gone = stretch.start - (kept[i - 1]?.end ?? stretch.start)
    const join = { at: Math.round(before / (tidyUp.tempo ?? 1)), samples: gone }
    before += stretch.end - stretch.start
    return gone > 0 ? [join] : []
  })
}

/** The place of a moment among samples. A moment that names a sample is on it: seconds and back may end a hair before it. */
function sampleAt(moment: number): number {
  const sample = moment * SAMPLE_RATE
  const nearest = Math.round(sample)
  return Math.abs(sample - nearest) < 1e-4 ? nearest : sample
}

export interface TimeMap {
  /** @returns the moment on the slide; null where the take's moment was removed */
  toSlide(moment: TakeSeconds): SlideSeconds | null
  /** @returns where a stretch of the take is heard, shrunk by what was removed; null when nothing of it is left */
  spanToSlide(start: TakeSeconds, end: TakeSeconds): { start: SlideSeconds; end: SlideSeconds } | null
  /** @returns the moment of the take heard at a moment of the slide; null in lead and tail */
  toTake(moment: SlideSeconds): TakeSeconds | null
}

/**
 * The map of one take on one slide.
 *
 * @param tidyUp the recipe the clip is rendered through
 * @param leadSeconds rest between the slide's appearance and the clip's first sample
 */
export function timeMap(tidyUp: Removal, leadSeconds: number): TimeMap {
  const tempo = tidyUp.tempo ?? 1
  let before = toSamples(leadSeconds)
  const pieces = keptStretches(tidyUp).map((stretch) => {
    const piece = { ...stretch, slideStart: before }
    before += (stretch.end - stretch.start) / tempo
    return piece
  })
  const end = before
  return {
    toSlide(moment) {
      const sample = sampleAt(moment)
      const piece = pieces.find((p) => sample >= p.start && sample < p.end)
      return piece ? slideSeconds(toSeconds(piece.slideStart + (sample - piece.start) / tempo)) : null
    },
    spanToSlide(start, finish) {
      const [from, to] = [sampleAt(start), sampleAt(finish)]
      const touched = pieces.filter((p) => p.end > from && p.start < to)
      const [first, last] = [touched[0], touched.at(-1)]
      if (!first || !last) return null
      return {
        start: slideSeconds(toSeconds(first.slideStart + Math.max(0, from - first.start) / tempo)),
        end: slideSeconds(toSeconds(last.slideStart + (Math.min(last.end, to) - last.start) / tempo)),
      }
    },
    toTake(moment) {
      const sample = sampleAt(moment)
      if (sample >= end) return null
      const piece = pieces.findLast((p) => sample >= p.slideStart)
      return piece ? takeSeconds(toSeconds(piece.start + (sample - piece.slideStart) * tempo)) : null
    },
  }
}
