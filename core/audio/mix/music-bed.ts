/** Beds: sound under the voice that fades, loops and gives way while somebody speaks. */

import { fromDb } from '#core/audio/signal/pcm.ts'
import type { Bed } from '#core/model/bed.ts'
import type { SampleRange } from '#core/model/sample-range.ts'
import { toSamples } from '#core/timing/clocks.ts'

/** A point of a gain curve; straight lines between points, amplitude 1 is the file's own. */
export interface GainPoint {
  /** Sample on whatever clock the curve is on. */
  at: number
  gain: number
}

/** One bed from its first sample on the lecture's clock to its last. */
export interface PlacedBed {
  bedId: string
  sound: string
  /** Lecture samples. */
  start: number
  end: number
  /** Sample of the file that is heard at its start. */
  firstSample: number
  /** Samples of the file, after which it begins again; null when it plays once. */
  loopSamples: number | null
  /** On the lecture's clock, first at `start`, last at `end`. */
  gains: GainPoint[]
  /** It is the sound of a film, which a player plays with its picture. */
  isFilm: boolean
}

/** Common practice, no published source: music goes down just before the voice and comes back slowly after it. */
const ATTACK = toSamples(0.3)
const RELEASE = toSamples(0.9)
/** Music does not come up for a pause shorter than this: it would pump. */
const HOLD = ATTACK + RELEASE + toSamples(0.6)
/** Where two ramps meet, their product is drawn with points this far apart. */
const FINE = toSamples(0.05)
/** What a bed without measurable loudness is taken for. */
const UNKNOWN_LUFS = -16
/** Voices are brought to this loudness; a bed's volume is told beside it. */
const VOICE_LUFS = -16

/** Value of a curve at a moment. @param points ascending, at least one */
export function gainAt(points: readonly GainPoint[], at: number): number {
  const after = points.findIndex((p) => p.at >= at)
  if (after === 0) return points[0]!.gain
  if (after < 0) return points.at(-1)!.gain
  const [a, b] = [points[after - 1]!, points[after]!]
  return a.gain + ((b.gain - a.gain) * (at - a.at)) / (b.at - a.at)
}

/** Product of two curves; where both slope, points are added so that straight lines follow it. */
function product(a: readonly GainPoint[], b: readonly GainPoint[]): GainPoint[] {
  const moments = [...new Set([...a, ...b].map((p) => p.at))].sort((x, y) => x - y)
  const slopes = (points: readonly GainPoint[], from: number, to: number) =>
    Math.abs(gainAt(points, from) - gainAt(points, to)) > 1e-6
  const dense = moments.flatMap((at, i) => {
    const next = moments[i + 1]
    if (next === undefined || !slopes(a, at, next) || !slopes(b, at, next)) return [at]
    return Array.from({ length: Math.ceil((next - at) / FINE) }, (_, n) => at + n * FINE)
  })
  return dense.map((at) => ({ at, gain: gainAt(a, at) * gainAt(b, at) }))
}

/** Down before each stretch of speech, up after it. */
function duckCurve(speech: readonly SampleRange[], start: number, end: number, duckDb: number): GainPoint[] {
  const low = fromDb(duckDb)
  const near = speech.filter((s) => s.end + RELEASE > start && s.start - ATTACK < end)
  const joined: SampleRange[] = []
  for (const s of near) {
    const before = joined.at(-1)
    if (before && s.start - before.end < HOLD) before.end = Math.max(before.end, s.end)
    else joined.push({ ...s })
  }
  const points = joined.flatMap((s) => [
    { at: s.start - ATTACK, gain: 1 },
    { at: s.start, gain: low },
    { at: s.end, gain: low },
    { at: s.end + RELEASE, gain: 1 },
  ])
  if (points.length === 0)
    return [
      { at: start, gain: 1 },
      { at: end, gain: 1 },
    ]
  return [
    { at: start, gain: gainAt(points, start) },
    ...points.filter((p) => p.at > start && p.at < end),
    { at: end, gain: gainAt(points, end) },
  ]
}

function fadeCurve(start: number, end: number, inSamples: number, outSamples: number): GainPoint[] {
  const length = end - start
  // fades that would overlap share what there is
  const scale = Math.min(1, length / Math.max(1, inSamples + outSamples))
  const rise = Math.round(inSamples * scale)
  const fall = Math.round(outSamples * scale)
  const points: GainPoint[] =
    rise > 0
      ? [
          { at: start, gain: 0 },
          { at: start + rise, gain: 1 },
        ]
      : [{ at: start, gain: 1 }]
  if (end - fall > points.at(-1)!.at) points.push({ at: end - fall, gain: 1 })
  if (fall > 0) points.push({ at: end, gain: 0 })
  return points
}

/**
 * A bed on the lecture's clock.
 *
 * @param run first and last lecture sample of the slides it covers
 * @param speech where somebody speaks, on the lecture's clock, in order
 * @returns what is heard; null when nothing of it is
 */
export function placeBed(bed: Bed, run: SampleRange, speech: readonly SampleRange[]): PlacedBed | null {
  const end = bed.loop ? run.end : Math.min(run.end, run.start + bed.samples)
  if (end <= run.start || bed.samples === 0) return null
  const level = fromDb(VOICE_LUFS + bed.volumeDb - (bed.loudnessLufs ?? UNKNOWN_LUFS))
  const fades = fadeCurve(run.start, end, toSamples(bed.fadeInSeconds), toSamples(bed.fadeOutSeconds))
  const ducked = bed.duckDb < 0 ? product(fades, duckCurve(speech, run.start, end, bed.duckDb)) : fades
  return {
    bedId: bed.id,
    sound: bed.sound,
    start: run.start,
    end,
    firstSample: 0,
    loopSamples: bed.loop ? bed.samples : null,
    gains: ducked.map((p) => ({ at: p.at, gain: p.gain * level })),
    isFilm: false,
  }
}

/** A film's sound begins and ends within this: without it a cut would click. */
const FILM_FADE_S = 0.02

/**
 * How loud a film is at each moment of the lecture.
 *
 * @param film of which `loudnessLufs` is that of its sound
 * @param run from its first lecture sample to its last
 * @param speech where somebody speaks, on the lecture's clock, in order
 */
export function filmGains(
  film: { volumeDb: number; duckDb: number; loudnessLufs: number | null },
  run: SampleRange,
  speech: readonly SampleRange[],
): GainPoint[] {
  const level = fromDb(VOICE_LUFS + film.volumeDb - (film.loudnessLufs ?? UNKNOWN_LUFS))
  const fades = fadeCurve(run.start, run.end, toSamples(FILM_FADE_S), toSamples(FILM_FADE_S))
  const ducked = film.duckDb < 0 ? product(fades, duckCurve(speech, run.start, run.end, film.duckDb)) : fades
  return ducked.map((p) => ({ at: p.at, gain: p.gain * level }))
}

/** What of a bed is heard in a stretch: everything an encoder needs, counted from the stretch's first sample. */
export interface BedPortion {
  sound: string
  /** Where its file begins to be played, when that is not its beginning: the samples below are counted from there. */
  firstSample?: number
  /** It is the sound of a film; absent for a bed. */
  isFilm?: true
  /** Sample of the file at the portion's start. */
  fileSample: number
  loopSamples: number | null
  /** First and last sample of the stretch under which it lies. */
  from: number
  to: number
  gains: GainPoint[]
}

/** @returns the part of a placed bed between two lecture samples; null when it is not heard there */
export function bedPortion(bed: PlacedBed, start: number, end: number): BedPortion | null {
  const [from, to] = [Math.max(start, bed.start), Math.min(end, bed.end)]
  if (to <= from) return null
  const played = from - bed.start
  const inside = bed.gains.filter((p) => p.at > from && p.at < to)
  const round = (gain: number) => Math.round(gain * 1e6) / 1e6
  return {
    sound: bed.sound,
    ...(bed.firstSample > 0 ? { firstSample: bed.firstSample } : {}),
    ...(bed.isFilm ? { isFilm: true as const } : {}),
    fileSample: bed.loopSamples ? played % bed.loopSamples : played,
    loopSamples: bed.loopSamples,
    from: from - start,
    to: to - start,
    gains: [{ at: from, gain: gainAt(bed.gains, from) }, ...inside, { at: to, gain: gainAt(bed.gains, to) }].map((p) => ({
      at: p.at - start,
      gain: round(p.gain),
    })),
  }
}

/**
 * Adds a portion of a bed to a mix, in place.
 *
 * @param mix one channel of the stretch the portion was made for, full scale ±1
 * @param file the same channel of the bed's file
 */
export function addBed(mix: Float32Array, file: Float32Array, portion: BedPortion) {
  let point = 0
  const { gains } = portion
  for (let i = portion.from; i < portion.to; i++) {
    while (point < gains.length - 2 && gains[point + 1]!.at <= i) point++
    const [a, b] = [gains[point]!, gains[point + 1] ?? gains[point]!]
    const gain = b.at > a.at ? a.gain + ((b.gain - a.gain) * (i - a.at)) / (b.at - a.at) : a.gain
    const played = portion.fileSample + i - portion.from
    const at = portion.loopSamples ? played % portion.loopSamples : played
    mix[i] = mix[i]! + (file[at] ?? 0) * gain
  }
}
