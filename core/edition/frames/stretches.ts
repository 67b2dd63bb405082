/** Stretches of a slide: in each one picture is seen, and either everything stands still or something moves all the time. */
import { SAMPLE_RATE } from '#core/timing/clocks.ts'

/** When something moves, samples of the slide. */
export interface MovingStretch {
  /** Its first picture is seen from here on. */
  seenSamples: number
  startSamples: number
  endSamples: number
  /** Frames a second, as a fraction. */
  rate: [number, number]
}

export interface Stretch {
  start: number
  end: number
  /** Which picture is seen: an index. */
  picture: number
  /** What moves in all of it. */
  moving: readonly MovingStretch[]
}

/**
 * @param from where the transition ends: what is over by then is left out
 * @returns stretches in order without a gap, at least one
 */
export function stretchesOf(
  {
    pictures,
    lengthSamples,
    films = [],
  }: { pictures: readonly { atSamples: number }[]; lengthSamples: number; films?: readonly MovingStretch[] },
  from: number,
): Stretch[] {
  const changes = [
    ...pictures.map((p) => p.atSamples),
    ...films.flatMap((film) => [film.seenSamples, film.startSamples, film.endSamples]),
  ]
  const inside = changes.filter((at) => at > from && at < lengthSamples)
  const starts = [...new Set([from, ...inside])].sort((a, b) => a - b)
  return starts.map(
    (start, i): Stretch => ({
      start,
      end: starts[i + 1] ?? lengthSamples,
      picture: Math.max(
        0,
        pictures.findLastIndex((p) => p.atSamples <= start),
      ),
      moving: films.filter((film) => film.startSamples <= start && film.endSamples > start),
    }),
  )
}

/**
 * When the frames of a stretch that moves are shown: those of its quickest film, each at its own moment, and one where the stretch begins
 * between two of them.
 *
 * @returns runs of frames that are equally far apart, in order
 */
export function movingFrames({ start, end, moving }: Stretch): { at: number; step: number; count: number }[] {
  const stepOf = ({ rate: [count, per] }: MovingStretch) => (SAMPLE_RATE * per) / count
  const quickest = moving.reduce((a, b) => (stepOf(b) < stepOf(a) ? b : a))
  const step = stepOf(quickest)
  // frames of odd rates lie between samples: half a sample beside is there
  const index = Math.ceil((start - quickest.startSamples - 0.5) / step)
  const at = quickest.startSamples + index * step
  const count = Math.ceil((end - at - 0.5) / step)
  const between = at - start > 0.5 ? [{ at: start, step, count: 1 }] : []
  return count > 0 ? [...between, { at, step, count }] : [{ at: start, step, count: 1 }]
}
