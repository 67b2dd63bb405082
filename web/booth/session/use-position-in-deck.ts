/** Which slide and which of its pictures is in front of the speaker, and how keys move on. */
import { useCallback, useEffect, useState } from 'react'
import { useSearchParams } from 'react-router'
import type { Lecture } from '#core/model/lecture.ts'
import type { Slide } from '#core/model/slide.ts'

export interface PositionInDeck {
  slide: Slide
  index: number
  /** Of the pictures of the slide. */
  step: number
  next: Slide | undefined
  before: Slide | undefined
  go(to: Slide | undefined): void
  showStep(step: number): void
}

/** Slides that are spoken to, in order; the address names the one in front. */
export function usePositionInDeck(lecture: Lecture, slide: Slide): PositionInDeck {
  const [, setSearch] = useSearchParams()
  const [step, setStep] = useState(0)
  const shown = lecture.slides.filter((s) => !s.hidden || s.id === slide.id)
  const at = shown.indexOf(slide)
  const go = useCallback(
    (to: Slide | undefined) =>
      to &&
      setSearch(
        (search) => {
          const { again: _, ...kept } = Object.fromEntries(search)
          return new URLSearchParams({ ...kept, slide: to.id })
        },
        // at once: what is pressed next must find the slide that is in front by then
        { replace: true, flushSync: true },
      ),
    [setSearch],
  )
  // biome-ignore lint/correctness/useExhaustiveDependencies: another slide begins with its first picture
  useEffect(() => setStep(0), [slide.id])
  return {
    slide,
    index: lecture.slides.indexOf(slide),
    step: Math.min(step, slide.steps.length - 1),
    next: shown[at + 1],
    before: shown[at - 1],
    go,
    showStep: setStep,
  }
}
