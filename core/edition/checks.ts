/** Findings before publishing, worst first, each with what to do. */
import { keptTake, type Lecture, type Slide } from '#core/lecture.ts'
import { slideTiming } from '#core/timing/schedule.ts'

export type CheckKind = 'no-sound' | 'not-tidied' | 'no-captions' | 'clipped' | 'no-voice' | 'no-alt-text' | 'uneven-loudness'

export interface Check {
  kind: CheckKind
  level: 'missing' | 'look'
  slideId: string | null
  /** Place of the slide in the lecture, from 1; null for the whole lecture. */
  slideNumber: number | null
  finding: string
  advice: string
}

/** Slides of one lecture differ by no more than this, or a viewer reaches for the volume. */
const EVEN_LU = 1

function checkSlide(lecture: Lecture, slide: Slide, captioned: boolean, slideNumber: number): Check[] {
  const at = { slideId: slide.id, slideNumber }
  const take = keptTake(slide)
  const found: Check[] = []
  if (!take) {
    const hold = slideTiming(lecture, slide).holdSeconds
    found.push({
      ...at,
      kind: 'no-sound',
      level: 'missing',
      finding: `Slide ${slideNumber} has no sound`,
      advice: `It would be shown in silence for ${hold} s`,
    })
  } else if (!take.clip) {
    found.push({
      ...at,
      kind: 'not-tidied',
      level: 'missing',
      finding: `Slide ${slideNumber} is still being tidied`,
      advice: take.problem ?? 'This takes a few seconds',
    })
  } else {
    if (take.analysis?.speech.length === 0) {
      found.push({
        ...at,
        kind: 'no-voice',
        level: 'look',
        finding: `No voice found on slide ${slideNumber}`,
        advice: 'Was the microphone muted? Listen to it, or record again',
      })
    }
    if ((take.analysis?.clippedSamples ?? 0) > 0) {
      found.push({
        ...at,
        kind: 'clipped',
        level: 'look',
        finding: `Slide ${slideNumber} is too loud in places`,
        advice: 'Move back from the microphone or turn it down, and record again',
      })
    }
    if (!captioned) {
      found.push({
        ...at,
        kind: 'no-captions',
        level: 'look',
        finding: `Slide ${slideNumber} has no captions`,
        advice: 'Type its script, or attach a caption file',
      })
    }
  }
  if (slide.altText.trim() === '') {
    found.push({
      ...at,
      kind: 'no-alt-text',
      level: 'look',
      finding: `The picture of slide ${slideNumber} is not described`,
      advice: 'Say what it shows, for those who cannot see it',
    })
  }
  return found
}

/** @returns findings, those that leave something missing first; empty when the lecture is ready */
export function checks(lecture: Lecture): Check[] {
  const shown = lecture.slides.filter((slide) => !slide.hidden)
  const captioned = (slide: Slide) =>
    lecture.captionTracks.some((track) => track.cues.some((cue) => cue.slideId === slide.id && cue.takeId === slide.keptTakeId))
  const found = shown.flatMap((slide, i) => checkSlide(lecture, slide, captioned(slide), i + 1))
  const loudness = shown.flatMap((slide) => keptTake(slide)?.clip?.figures.loudnessLufs ?? [])
  const spread = Math.max(...loudness) - Math.min(...loudness)
  if (loudness.length > 1 && spread > EVEN_LU) {
    found.push({
      kind: 'uneven-loudness',
      level: 'look',
      slideId: null,
      slideNumber: null,
      finding: 'Some slides are louder than others',
      advice: `They differ by ${spread.toFixed(1)} LU (loudness units); tidy them to the same loudness`,
    })
  }
  return found.sort((a, b) => Number(b.level === 'missing') - Number(a.level === 'missing'))
}
