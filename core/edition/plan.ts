/** What is shown and heard when: everything the encoder needs, and nothing it has to work out. */
import { keptTake, type Lecture } from '#core/lecture.ts'
import { schedule } from '#core/timing/schedule.ts'

export interface PlannedSlide {
  slideId: string
  title: string
  altText: string
  startSamples: number
  /** A multiple of 1024. */
  lengthSamples: number
  /** Content name of the picture shown from the slide's first frame on. */
  picture: string
  thumbnail: string
  /** What is heard, and from which sample of the slide on; null for a silent slide. */
  sound: { clip: string; atSamples: number; samples: number } | null
}

export interface EditionPlan {
  title: string
  language: string
  slides: PlannedSlide[]
  lengthSamples: number
}

/**
 * The plan of an edition.
 *
 * @throws Error with a sentence when no slide would be shown
 */
export function plan(lecture: Lecture): EditionPlan {
  const times = schedule(lecture)
  const slides = times.slides.map((scheduled): PlannedSlide => {
    const slide = lecture.slides.find((s) => s.id === scheduled.slideId)!
    const step = slide.steps[0]!
    const clip = scheduled.clipSamples > 0 ? keptTake(slide)?.clip : null
    return {
      slideId: slide.id,
      title: slide.title,
      altText: slide.altText,
      startSamples: scheduled.startSamples,
      lengthSamples: scheduled.lengthSamples,
      picture: step.picture,
      thumbnail: step.thumbnail,
      sound: clip ? { clip: clip.sound, atSamples: scheduled.leadSamples, samples: clip.samples } : null,
    }
  })
  if (slides.length === 0) throw new Error('There is no slide to show. Add a deck, or show a hidden slide, and publish again.')
  return { title: lecture.title, language: lecture.language, slides, lengthSamples: times.lengthSamples }
}
