/** The script in reading type: its size adjustable, editable on the spot. */

import { useEffect, useMemo, useRef, useState } from 'react'
import type { Lecture } from '#core/model/lecture.ts'
import type { Slide } from '#core/model/slide.ts'
import { sentences } from '#core/script/sentences.ts'
import { say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { useDraft } from '#web/data/use-draft.ts'
import type { LevelFeed } from '#web/recorder/level-feed.ts'
import { useFollowing } from './use-following.ts'

const SIZE_KEY = 'script size'
const SIZES = [18, 20, 22, 25, 28, 32, 38]
const USUAL = 25

interface ScriptPaneProps {
  lecture: Lecture
  slide: Slide
  level: LevelFeed
  recording: boolean
  /** The recording rests. */
  resting: boolean
}

export function ScriptPane({ lecture, slide, level, recording, resting }: ScriptPaneProps) {
  const [size, setSize] = useState(() => Number(localStorage.getItem(SIZE_KEY)) || USUAL)
  const [editing, setEditing] = useState(false)
  const number = lecture.slides.findIndex((s) => s.id === slide.id) + 1
  const draft = useDraft(
    lecture.id,
    `script ${slide.id}`,
    say('script of slide {number}', { number }),
    slide.script,
    (script) => [
      {
        kind: 'slide',
        id: slide.id,
        change: { script },
      },
    ],
  )
  const language = slide.language ?? lecture.language
  const said = useMemo(() => sentences(draft.text, language), [draft.text, language])
  const [current, follow] = useFollowing(level, said, language, recording, resting)
  const line = useRef<HTMLParagraphElement>(null)
  useEffect(() => {
    if (current !== null) line.current?.scrollIntoView({ block: 'nearest' })
  }, [current])
  const resize = (by: number) => {
    const next = SIZES[Math.max(0, Math.min(SIZES.length - 1, SIZES.indexOf(size) + by))] ?? USUAL
    setSize(next)
    localStorage.setItem(SIZE_KEY, String(next))
  }
  const style = { fontSize: size, lineHeight: 1.5 }
  return (
    <section aria-label={say('Script')} className="flex min-h-0 flex-col">
      <div className="mb-2 flex gap-2 text-sm">
        <Button size="xs" aria-label={say('Smaller script')} onClick={() => resize(-1)}>
          A−
        </Button>
        <Button size="xs" aria-label={say('Larger script')} onClick={() => resize(1)}>
          A+
        </Button>
        <Button
          size="xs"
          onClick={() => {
            if (editing) draft.leave()
            setEditing(!editing)
          }}
        >
          {editing ? say('Done editing') : say('Edit')}
        </Button>
      </div>
      {editing ? (
        <textarea
          // biome-ignore lint/a11y/noAutofocus: the person has just asked to write here
          autoFocus
          aria-label={say('Script of this slide')}
          lang={language}
          dir="auto"
          className="min-h-0 grow resize-none rounded border border-edge bg-base-200 p-3 font-read"
          style={style}
          value={draft.text}
          onChange={(event) => draft.type(event.target.value)}
          onBlur={draft.leave}
        />
      ) : (
        // biome-ignore lint/a11y/noNoninteractiveTabindex: a long script is scrolled by keyboard
        <div tabIndex={0} className="min-h-0 grow overflow-auto pe-2 font-read" style={style}>
          {draft.text.trim() === '' && (
            <p className="text-base text-base-content/75">
              {say('Nothing is written for this slide. Talk around it, or press Edit and write what you want to say.')}
            </p>
          )}
          {said.map((sentence, i) => (
            // biome-ignore lint/a11y/useKeyWithClickEvents: a hint for the mark, which finds its sentence by itself in the next rest
            <p
              key={i}
              lang={language}
              dir="auto"
              ref={i === current ? line : null}
              aria-current={i === current ? 'true' : undefined}
              onClick={() => follow(i)}
              className={`mb-[0.45em] border-s-4 ps-3 ${i === current ? 'border-primary' : 'border-transparent'} ${current !== null && i < current ? 'text-base-content/75' : ''}`}
            >
              {sentence}
            </p>
          ))}
        </div>
      )}
    </section>
  )
}
