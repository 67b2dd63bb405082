/** The script of the slide that is spoken to, in a window of its own for a second screen: it follows the booth, and its keys are the booth's. */

import { useEffect, useState } from 'react'
import { useParams } from 'react-router'
import { say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { clock } from '#web/components/format.ts'
import { Key } from '#web/components/keys/key.tsx'
import { usePageKeys } from '#web/components/keys/use-page-keys.ts'
import { Loading } from '#web/components/loading.tsx'
import { usePageTitle } from '#web/components/page-title.ts'
import { api, sentenceOf } from '#web/data/api.ts'
import { NotFoundPage } from '#web/shell/not-found-page.tsx'
import { LookControls } from './look-controls.tsx'
import { type ScriptAct, type ScriptShown, useScriptReceiver } from './script-channel.ts'
import { useScriptLook } from './script-look.ts'
import { useScriptParts } from './script-parts.ts'
import { ScriptText } from './script-text.tsx'

/** A booth that is open answers at once. */
const ANSWER_MS = 1500

function Bar({ shown, onAct }: { shown: ScriptShown; onAct: (act: ScriptAct) => void }) {
  const underWay = shown.state === 'recording' || shown.state === 'paused'
  return (
    <div className="flex flex-wrap items-center gap-2 border-t border-base-300 px-4 py-2">
      <Button onClick={() => onAct('record')} disabled={shown.state === 'other'}>
        {underWay ? say('Stop') : say('Record')} <Key>R</Key>
      </Button>
      <Button onClick={() => onAct('rest')} disabled={!underWay}>
        {shown.state === 'paused' ? say('Go on') : say('Rest')} <Key>P</Key>
      </Button>
      <Button onClick={() => onAct('backward')} aria-label={say('Slide before')}>
        <Key>←</Key>
      </Button>
      <Button onClick={() => onAct('forward')} aria-label={say('Next')}>
        <Key>→</Key>
      </Button>
      <span role="timer" className="ms-auto font-read text-2xl font-semibold">
        {clock(shown.seconds, 0)}
      </span>
      <span role="status" className="min-w-24 text-sm">
        {shown.state === 'recording' ? say('Recording') : shown.state === 'paused' ? say('Resting') : ''}
      </span>
    </div>
  )
}

export function ScriptWindow() {
  const { id } = useParams()
  const { data: lecture, error, isLoading } = api.useLectureQuery(id!)
  const [shown, setShown] = useState<ScriptShown | null>(null)
  const [waited, setWaited] = useState(false)
  const [look, setLook] = useScriptLook('window')
  const send = useScriptReceiver(id!, setShown)
  usePageTitle(lecture?.title, say('Script'))
  useEffect(() => {
    const timer = setTimeout(() => setWaited(true), ANSWER_MS)
    return () => clearTimeout(timer)
  }, [])
  const act = (what: ScriptAct) => send({ kind: 'act', act: what })
  usePageKeys(
    {
      r: () => act('record'),
      p: () => act('rest'),
      arrowright: () => act('forward'),
      pagedown: () => act('forward'),
      arrowleft: () => act('backward'),
      pageup: () => act('backward'),
    },
    { everywhere: true },
  )
  const slide = lecture?.slides.find((s) => s.id === shown?.slideId)
  const language = slide?.language ?? lecture?.language ?? 'en'
  const script = slide?.script ?? ''
  const { points, said } = useScriptParts(script, language)
  if (isLoading) return <Loading what={say('the lecture')} />
  if (!lecture) return <NotFoundPage sentence={sentenceOf(error)} />
  return (
    <div data-theme="lectern-night" data-fills-window className="flex h-dvh flex-col bg-base-100 text-base-content">
      <header className="flex flex-wrap items-center gap-1.5 px-4 py-2 text-sm">
        <h1 className="me-auto truncate text-base-content/75">
          {slide
            ? say('Slide {index} of {slides}', { index: lecture.slides.indexOf(slide) + 1, slides: lecture.slides.length })
            : say('Script')}
        </h1>
        <LookControls look={look} onLook={setLook} inWindow />
      </header>
      <main className="flex min-h-0 grow flex-col px-4">
        {slide && shown ? (
          <ScriptText
            key={slide.id}
            sentences={said}
            points={points}
            language={language}
            look={look}
            place={shown.place}
            ticked={shown.ticked}
            onPick={(at) => send({ kind: 'picked', at })}
            empty={say('Nothing is written for this slide.')}
          />
        ) : (
          waited && (
            <p role="status" className="m-auto max-w-md font-read text-lg">
              {say('The booth of this lecture is not open in this browser. Open it in another window: this one follows it.')}
            </p>
          )
        )}
      </main>
      {shown && <Bar shown={shown} onAct={act} />}
    </div>
  )
}
