/** The script in reading type, followed while one speaks, editable on the spot; points are ticked off. */

import { PictureInPicture2 } from 'lucide-react'
import { useState } from 'react'
import type { Lecture } from '#core/model/lecture.ts'
import type { Slide } from '#core/model/slide.ts'
import { pointsOf } from '#core/script/points.ts'
import { say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { useDraft } from '#web/data/draft/use-draft.ts'
import { isUnderWay } from '#web/recorder/recording-session.ts'
import { LookControls } from './script/look-controls.tsx'
import { type ScriptAct, useScriptSender } from './script/script-channel.ts'
import { useScriptLook } from './script/script-look.ts'
import { useScriptParts, useTicked } from './script/script-parts.ts'
import { ScriptText } from './script/script-text.tsx'
import { type ScriptPlace, useFollowing } from './script/use-following.ts'
import { useWordFollowing } from './script/use-word-following.ts'
import type { BoothActs } from './session/use-booth-acts.ts'
import type { SessionView } from './session/use-recording-session.ts'

interface ScriptPaneProps {
  lecture: Lecture
  slide: Slide
  session: SessionView
  acts: BoothActs
}

/** The script in a window of its own, for a second screen. */
const openWindow = (lectureId: string) =>
  window.open(`/lectures/${lectureId}/script`, `script-${lectureId}`, 'popup,width=900,height=700')

export function ScriptPane({ lecture, slide, session, acts }: ScriptPaneProps) {
  const [look, setLook] = useScriptLook('booth')
  const [editing, setEditing] = useState(false)
  const [ticked, tick] = useTicked()
  const number = lecture.slides.findIndex((s) => s.id === slide.id) + 1
  const draft = useDraft(
    lecture.id,
    `script ${slide.id}`,
    say('script of slide {number}', { number }),
    slide.script,
    (script) => [{ kind: 'slide', id: slide.id, change: { script } }],
  )
  const language = slide.language ?? lecture.language
  const { points, said } = useScriptParts(draft.text, language)
  const underWay = isUnderWay(session.state)
  const [byRests, goByRests] = useFollowing(session.level, said, language, underWay, session.state !== 'recording')
  const [byWords, setByWords] = useState<ScriptPlace | null>(null)
  const next = lecture.slides.slice(number).find((s) => !s.hidden)
  const goByWords = useWordFollowing(
    session.sound,
    points ? '' : draft.text,
    language,
    underWay,
    setByWords,
    next && !pointsOf(next.script) ? { script: next.script, language: next.language ?? lecture.language } : null,
  )
  // words tell better; where they cannot be told, rests do
  const place = underWay && byWords ? byWords : byRests
  const follow = (sentence: number) => {
    goByWords(sentence)
    goByRests(sentence)
    setByWords(null)
  }
  const pick = points ? tick : follow
  const act = (what: ScriptAct) => {
    if (what === 'record') acts.record()
    else if (what === 'rest') acts.rest()
    else acts[what]({ timeStamp: performance.now() })
  }
  const { state, seconds } = session
  useScriptSender(
    lecture.id,
    {
      slideId: slide.id,
      place,
      ticked,
      state: state === 'recording' || state === 'paused' || state === 'ready' ? state : 'other',
      seconds: Math.floor(seconds),
    },
    act,
    pick,
  )
  return (
    <section aria-label={say('Script')} className="flex min-h-0 flex-col">
      <div className="mb-2 flex flex-wrap gap-1.5 text-sm">
        <LookControls look={look} onLook={setLook} inWindow={false} />
        <Button size="xs" onClick={() => openWindow(lecture.id)}>
          <PictureInPicture2 size={13} aria-hidden /> {say('Own window')}
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
          style={{ fontSize: look.size, lineHeight: 1.5 }}
          value={draft.text}
          onChange={(event) => draft.type(event.target.value)}
          onBlur={draft.leave}
        />
      ) : (
        <ScriptText
          sentences={said}
          points={points}
          language={language}
          look={look}
          place={place}
          ticked={ticked}
          onPick={pick}
          empty={say('Nothing is written for this slide. Talk around it, or press Edit and write what you want to say.')}
        />
      )}
    </section>
  )
}
