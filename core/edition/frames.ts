/** Which pictures of a slide are encoded, and when each of them is shown. A repeat is encoded once, however often it is shown. */
import { SAMPLE_RATE } from '#core/timing/clocks.ts'
import { TRANSITION_FRAME } from '#core/timing/schedule.ts'
import type { PlannedSlide } from './plan.ts'

/**
 * A still picture is shown again this often. Players can seek with far fewer, but Chromium counts screen refreshes where frames come evenly
 * and asks the time only when it is off by half a frame: a change of slide comes up to half this distance before or after its voice.
 */
export const REPEAT_SAMPLES = SAMPLE_RATE / 10
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
 * The video frames of a slide: those of its transition at 30 a second, then each picture once with a repeat ten times a second.
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
      // none that is shown for less: readers of WebM take the last frame to last as long as the others
      for (let at = start; at === start || at + REPEAT_SAMPLES <= end; at += REPEAT_SAMPLES)
        shown.push({ at, encoded: at === start ? firstOf(picture) : firstOf(picture) + 1 })
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
