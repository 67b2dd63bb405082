/** What one caption says, edited as text. */

import { type KeyboardEvent, useRef, useState } from 'react'
import { setText, tidyText } from '#core/captions/edit/edit-cues.ts'
import type { CaptionTrack, StoredCue } from '#core/model/caption.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { findWords } from '#core/script/edit/find-words.ts'
import { say } from '#core/words/say.ts'
import type { Command } from '#web/data/commands.ts'
import { useDraft } from '#web/data/draft/use-draft.ts'
import { cuesOfSlide } from './use-caption-edits.ts'
import { useWordGuess, WordGuess } from './without-script/word-guess.tsx'

/** The script with one sentence in the place of another; null when the sentence is not there any more. */
export function scriptWith(script: string, scriptText: string, instead: string): string | null {
  const found = findWords(script, scriptText)
  return found && script.slice(0, found.start) + instead + script.slice(found.end)
}

interface CueTextFieldProps {
  lecture: Lecture
  track: CaptionTrack
  cue: StoredCue
  label: string
  /** Whether the script follows what is typed. */
  toScript: boolean
  /** Words are guessed while they are typed. */
  isByEar: boolean
  className: string
  onFocus: () => void
  onKeyDown: (event: KeyboardEvent<HTMLTextAreaElement>) => void
}

export function CueTextField(props: CueTextFieldProps) {
  const { lecture, track, cue, label, toScript, isByEar, className, onFocus, onKeyDown } = props
  const slide = lecture.slides.find((s) => s.id === cue.slideId)!
  /** As it was when typing began, which is what undo puts back. */
  const before = useRef<{ text: string; cues: StoredCue[]; script: string } | null>(null)
  const captions = (cues: StoredCue[]): Command => ({ kind: 'captions', trackId: track.id, slideId: slide.id, cues })
  const script = (text: string): Command => ({ kind: 'slide', id: slide.id, change: { script: text } })

  const toCommands = (text: string): Command[] => {
    const start = before.current
    if (start && text === start.text)
      return toScript && cue.scriptText ? [script(start.script), captions(start.cues)] : [captions(start.cues)]
    const cues = setText(cuesOfSlide(track, slide.id), cue.id, text)
    const said = cues.filter((c) => c.scriptText === cue.scriptText).map((c) => c.text)
    const sentence = tidyText(said.join(' ')).replaceAll('\n', ' ')
    const followed = toScript && cue.scriptText && sentence ? scriptWith(slide.script, cue.scriptText, sentence) : null
    if (followed === null) return [captions(cues)]
    // the captions know the sentence by its new words, so that they are not made anew while they are typed
    return [script(followed), captions(cues.map((c) => (c.scriptText === cue.scriptText ? { ...c, scriptText: sentence } : c)))]
  }
  const draft = useDraft(
    lecture.id,
    `caption ${cue.id}`,
    say('caption on slide {slide}', { slide: lecture.slides.indexOf(slide) + 1 }),
    cue.text,
    toCommands,
  )
  const [isTyping, setIsTyping] = useState(false)
  const guess = useWordGuess(isByEar && isTyping, lecture, slide, draft.text)
  return (
    <>
      <textarea
        aria-label={label}
        lang={track.language}
        dir="auto"
        spellCheck
        rows={Math.max(1, draft.text.split('\n').length)}
        className={className}
        value={draft.text}
        onFocus={() => {
          before.current = { text: cue.text, cues: cuesOfSlide(track, slide.id), script: slide.script }
          setIsTyping(true)
          onFocus()
        }}
        onChange={(event) => draft.type(event.target.value)}
        onBlur={() => {
          setIsTyping(false)
          draft.leave()
        }}
        onKeyDown={(event) => {
          const isAtEnd = event.currentTarget.selectionStart === draft.text.length
          if (guess === null || event.key !== 'Tab' || event.shiftKey || !isAtEnd) return onKeyDown(event)
          event.preventDefault()
          draft.type(draft.text + guess)
        }}
      />
      {isByEar && isTyping && <WordGuess begun={draft.text} guess={guess} />}
    </>
  )
}
