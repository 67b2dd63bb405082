/** Which pictures of a slide are encoded, and when each of them is shown. A repeat is encoded once, however often it is shown. */
import { SAMPLE_RATE } from '#core/timing/clocks.ts'
import { TRANSITION_FRAME } from '#core/timing/schedule.ts'
import type { PlannedSlide } from './plan.ts'

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

/** A constant rate has a key frame this often. */
const KEY_FRAME_S = 2

export interface EncodedFrame {
  /** Which picture it shows: an index, or −1 inside the transition. */
  picture: number
  /** Nothing in it is new: the encoder skips all of it. */
  repeat: boolean
  /** Whether playing can begin with it. */
  key: boolean
}

export interface ShownFrame {
  /** Sample of the slide. */
  at: number
  /** Which of the encoded frames. */
  encoded: number
}

export interface SlideFrames {
  encoded: EncodedFrame[]
  shown: ShownFrame[]
}

type Framed = Pick<PlannedSlide, 'pictures' | 'transition' | 'lengthSamples'>

/**
 * The video frames of a slide: those of its transition at 30 a second, then each picture once with a repeat that is shown many times.
 *
 * @param rate frames a second, all alike, of which the joined video takes as many as fit its own grid; each picture begins with a key
 *   frame then, and has one every 2 s. null for the variable rate, where only the slide's first frame is one
 * @returns encoded frames in coding order; they do not depend on how long a picture is shown. Shown frames are ascending
 */
export function slideFrames(slide: Framed, rate: number | null = null): SlideFrames {
  const changing = (slide.transition?.frames ?? 0) * TRANSITION_FRAME
  const step = rate === null ? TRANSITION_FRAME : SAMPLE_RATE / rate
  const changes = Math.ceil(changing / step)
  const encoded: EncodedFrame[] = Array.from({ length: changes }, (_, i) => ({ picture: -1, repeat: false, key: i === 0 }))
  const firstOf = (picture: number) => changes + 2 * picture
  for (const [picture] of slide.pictures.entries()) {
    encoded.push({ picture, repeat: false, key: rate !== null || encoded.length === 0 })
    encoded.push({ picture, repeat: true, key: false })
  }
  const shown: ShownFrame[] = Array.from({ length: changes }, (_, i) => ({ at: i * step, encoded: i }))
  if (rate === null) {
    for (const [picture, span] of slide.pictures.entries()) {
      const end = slide.pictures[picture + 1]?.atSamples ?? slide.lengthSamples
      const start = Math.max(span.atSamples, changing)
      // over before the transition has ended
      if (start >= end) continue
      shown.push({ at: start, encoded: firstOf(picture) })
      for (const at of repeatsOf(start, end)) shown.push({ at, encoded: firstOf(picture) + 1 })
    }
    return { encoded, shown }
  }
  // one more than its length needs: where its first frame lies on the lecture's grid is known only when all is joined
  const count = Math.ceil(slide.lengthSamples / step) + 1
  let before = -1
  for (let i = changes; i < count; i++) {
    const at = i * step
    const inside = Math.min(at, slide.lengthSamples - 1)
    const picture = Math.max(
      0,
      slide.pictures.findLastIndex((p) => p.atSamples <= inside),
    )
    const key = picture !== before || i % (KEY_FRAME_S * rate) === 0
    shown.push({ at, encoded: key ? firstOf(picture) : firstOf(picture) + 1 })
    before = picture
  }
  return { encoded, shown }
}
