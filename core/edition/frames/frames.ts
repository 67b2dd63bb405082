/** Which pictures of a slide are encoded, and when each of them is shown. A repeat is encoded once, however often it is shown. */
import { SAMPLE_RATE } from '#core/timing/clocks.ts'
import { TRANSITION_FRAME } from '#core/timing/scheduled.ts'
import { type MovingStretch, movingFrames, type Stretch, stretchesOf } from './stretches.ts'

/**
 * A still picture is shown again once a second, and fifteen times a second about the changes of picture. Where frames come evenly, Chromium
 * counts refreshes of the screen and asks the time only when it is off by half the distance of the last 32 frames: with few repeats a slide
 * would come long before or after its voice.
 */
const REPEAT = SAMPLE_RATE
const DENSE_REPEAT = SAMPLE_RATE / 15
const DENSE_BEFORE = 45 * DENSE_REPEAT
const DENSE_AFTER = 9 * DENSE_REPEAT

/** When a picture that is shown from start to end is shown again. None for less than a dense repeat: WebM does not say how long its last frame lasts. */
function repeatsOf(start: number, end: number): number[] {
  const times: number[] = []
  for (let at = start; ; ) {
    const dense = at < start + DENSE_AFTER || at + REPEAT > end - DENSE_BEFORE
    at += dense ? DENSE_REPEAT : REPEAT
    if (at + DENSE_REPEAT > end) return times
    times.push(at)
  }
}

/** A constant rate has a key frame this often, and so have stretches that move. */
const KEY_FRAME_S = 2

export interface EncodedFrame {
  /** Which picture it shows, with what moves on it: an index, or −1 inside the transition. */
  picture: number
  /** Nothing in it is new: the encoder skips all of it. */
  repeat: boolean
  /** Whether playing can begin with it. */
  key: boolean
  /** Something moves in it. */
  moves?: true
}

export interface ShownFrame {
  /** Sample of the slide. */
  at: number
  /** Which of the encoded frames. */
  encoded: number
}

/** Encoded frames in a row whose moments are equally far apart, samples of the slide; they need not be whole. */
export interface FrameRun {
  /** Index of the first of them. */
  first: number
  at: number
  step: number
}

export interface SlideFrames {
  encoded: EncodedFrame[]
  shown: ShownFrame[]
  /** When each encoded frame is shown first: what moves is drawn as it is then. */
  runs: FrameRun[]
}

/** What of a planned slide decides its frames. */
export interface Framed {
  pictures: readonly { atSamples: number }[]
  transition: { frames: number } | null
  lengthSamples: number
  films?: readonly MovingStretch[]
}

/**
 * The video frames of a slide: those of its transition at 30 a second, then each picture once with a repeat that is shown many times; where
 * a film moves, each of its frames.
 *
 * @param rate frames a second, all alike, of which the joined video takes as many as fit its own grid; each picture begins with a key
 *   frame then, and has one every 2 s. null for the variable rate, where only the slide's first frame is one and those of films
 * @returns encoded frames in coding order; without films they do not depend on how long a picture is shown. Shown frames are ascending
 */
export function slideFrames(slide: Framed, rate: number | null = null): SlideFrames {
  const changing = (slide.transition?.frames ?? 0) * TRANSITION_FRAME
  const step = rate === null ? TRANSITION_FRAME : SAMPLE_RATE / rate
  const changes = Math.ceil(changing / step)
  const made: SlideFrames = {
    encoded: Array.from({ length: changes }, (_, i) => ({ picture: -1, repeat: false, key: i === 0 })),
    shown: Array.from({ length: changes }, (_, i) => ({ at: i * step, encoded: i })),
    runs: changes > 0 ? [{ first: 0, at: 0, step }] : [],
  }
  const stretches = stretchesOf(slide, changing)
  // where nothing moves, a picture that is over before the transition has ended is encoded as well: frames do not depend on moments then
  const pictures = slide.films?.length ? [] : slide.pictures
  const known = pictures.map(({ atSamples }, picture) => addStill(made, picture, rate !== null, atSamples))
  const firstOf = ({ picture, start }: Stretch) => known[picture] ?? addStill(made, picture, rate !== null, start)
  if (rate === null) variable(made, stretches, firstOf)
  else constant(made, stretches, firstOf, { changes, step, rate, lengthSamples: slide.lengthSamples })
  return made
}

/** Which encoded frame is the first of a stretch that stands still; its repeat follows. */
type FirstOf = (stretch: Stretch) => number

/** @returns which encoded frame is the picture's first; its repeat follows */
function addStill({ encoded, runs }: SlideFrames, picture: number, isKey: boolean, at: number): number {
  const first = encoded.length
  encoded.push({ picture, repeat: false, key: isKey || first === 0 }, { picture, repeat: true, key: false })
  runs.push({ first, at, step: 1 })
  return first
}

/** Each frame at its own moment. */
function variable({ encoded, shown, runs }: SlideFrames, stretches: readonly Stretch[], firstOf: FirstOf) {
  for (const stretch of stretches) {
    if (stretch.moving.length === 0) {
      const first = firstOf(stretch)
      shown.push({ at: stretch.start, encoded: first })
      for (const at of repeatsOf(stretch.start, stretch.end)) shown.push({ at, encoded: first + 1 })
      continue
    }
    let lastKey = Number.NEGATIVE_INFINITY
    for (const { at, step, count } of movingFrames(stretch)) {
      runs.push({ first: encoded.length, at, step })
      for (let i = 0; i < count; i++) {
        const moment = Math.round(at + i * step)
        const key = moment - lastKey >= KEY_FRAME_S * SAMPLE_RATE
        if (key) lastKey = moment
        shown.push({ at: moment, encoded: encoded.length })
        encoded.push({ picture: stretch.picture, repeat: false, key, moves: true })
      }
    }
  }
}

/** Frames equally far apart. */
function constant(
  { encoded, shown, runs }: SlideFrames,
  stretches: readonly Stretch[],
  firstOf: FirstOf,
  { changes, step, rate, lengthSamples }: { changes: number; step: number; rate: number; lengthSamples: number },
) {
  // one more than its length needs: where its first frame lies on the lecture's grid is known only when all is joined
  const count = Math.ceil(lengthSamples / step) + 1
  let before: Stretch | null = null
  let first = 0
  let at = changes * step
  let index = 0
  for (let i = changes; i < count; i++, at = i * step) {
    const inside = Math.min(at, lengthSamples - 1)
    while (index < stretches.length - 1 && stretches[index + 1]!.start <= inside) index++
    const stretch = stretches[index]!
    const isNew = stretch !== before
    const key = isNew || i % (KEY_FRAME_S * rate) === 0
    before = stretch
    if (stretch.moving.length > 0) {
      if (isNew) runs.push({ first: encoded.length, at, step })
      shown.push({ at, encoded: encoded.length })
      encoded.push({ picture: stretch.picture, repeat: false, key, moves: true })
      continue
    }
    if (isNew) first = firstOf(stretch)
    shown.push({ at, encoded: key ? first : first + 1 })
  }
}
