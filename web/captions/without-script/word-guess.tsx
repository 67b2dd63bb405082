/** The word that is being typed, guessed from those of the slide and the lecture. */

import { useMemo } from 'react'
import { guessWord, vocabularyOf } from '#core/captions/generate/guess-word.ts'
import type { Lecture } from '#core/model/lecture.ts'
import type { Slide } from '#core/model/slide.ts'
import { isolated, say } from '#core/words/say.ts'

const wordsOn = (slide: Slide) => [slide.title, slide.altText, slide.script, ...slide.steps.map(({ text }) => text)].join('\n')

/** @returns what would end the word that is typed; null where nothing is guessed */
export function useWordGuess(isOn: boolean, lecture: Lecture, slide: Slide, typed: string): string | null {
  const vocabulary = useMemo(() => {
    if (!isOn) return null
    const captioned = lecture.captionTracks.flatMap(({ cues }) => cues.map(({ text }) => text)).join('\n')
    return vocabularyOf([wordsOn(slide), captioned, lecture.slides.map(wordsOn).join('\n')])
  }, [isOn, lecture, slide])
  return vocabulary && guessWord(vocabulary, typed)
}

export function WordGuess({ begun, guess }: { begun: string; guess: string | null }) {
  const last = /\S*$/u.exec(begun)![0]
  return (
    <p className="min-h-6 px-2 pt-1.5 text-xs text-base-content/75">
      {guess && say('Tab writes {word}', { word: isolated(last + guess) })}
    </p>
  )
}
