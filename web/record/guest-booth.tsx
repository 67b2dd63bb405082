/** The booth of a link: the slides one was asked for, their scripts, the microphone, and what one has recorded. Nothing else of the lecture. */

import { type CSSProperties, useState } from 'react'
import { spokenLength } from '#core/script/pace.ts'
import { say } from '#core/words/say.ts'
import { Banner } from '#web/booth/banner.tsx'
import { MicrophoneChoice } from '#web/booth/microphone-choice.tsx'
import { PracticeBanner } from '#web/booth/practice-banner.tsx'
import { LookControls } from '#web/booth/script/look-controls.tsx'
import { useScriptLook } from '#web/booth/script/script-look.ts'
import { useScriptParts, useTicked } from '#web/booth/script/script-parts.ts'
import { ScriptText } from '#web/booth/script/script-text.tsx'
import { useFollowing } from '#web/booth/script/use-following.ts'
import { KeyButton } from '#web/booth/session/key-button.tsx'
import { RecordKey } from '#web/booth/session/record-key.tsx'
import { type SessionView, useRecordingSession } from '#web/booth/session/use-recording-session.ts'
import { UploadStatus } from '#web/booth/session-status.tsx'
import { clock } from '#web/components/format.ts'
import type { BoothSlide, OwnBooth } from '#web/data/endpoints/voices/record.ts'
import { linkPicture } from '#web/data/endpoints/voices/record.ts'
import { LevelBar } from '#web/microphone/level-bar.tsx'
import { isUnderWay } from '#web/recorder/recording-session.ts'
import type { LinkVoice } from '#web/recorder/take-requests.ts'
import { OwnRecordingList } from './own-recordings.tsx'
import { SlideChoice } from './slide-choice.tsx'
import { type GuestActs, useGuestActs } from './use-guest-acts.ts'
import { type OwnRecordings, useOwnRecordings } from './use-own-recordings.ts'

/** The script as it is read; of a class no sentence is marked, for it is their reading. */
function Script({ booth, slide, session }: { booth: OwnBooth; slide: BoothSlide; session: SessionView }) {
  const [look, setLook] = useScriptLook('booth')
  const language = slide.language ?? booth.language
  const { points, said } = useScriptParts(slide.script, language)
  const isFollowed = isUnderWay(session.state) && booth.kind === 'guest'
  const [place, goTo] = useFollowing(session.level, said, language, isFollowed, session.state !== 'recording')
  const [ticked, tick] = useTicked()
  return (
    <section aria-label={say('Script')} className="flex min-h-0 flex-col">
      <div className="mb-2 flex flex-wrap gap-1.5 text-sm">
        <LookControls look={look} onLook={setLook} inWindow={false} />
      </div>
      <ScriptText
        key={slide.id}
        sentences={said}
        points={points}
        language={language}
        look={look}
        place={place}
        ticked={ticked}
        onPick={points ? tick : goTo}
        empty={say('Nothing is written for this slide: say it in your own words.')}
      />
    </section>
  )
}

interface PartProps {
  booth: OwnBooth
  voice: LinkVoice
  slide: BoothSlide
  session: SessionView
  acts: GuestActs
}

function Picture({ voice, slide, session, acts }: PartProps) {
  const picture = slide.steps[acts.step]!
  return (
    <div className="relative overflow-hidden rounded bg-black" style={{ aspectRatio: picture.width / picture.height }}>
      <img src={linkPicture(voice.token, picture.picture)} alt={slide.altText} className="size-full" />
      <Banner session={session} />
      {slide.steps.length > 1 && (
        <p className="absolute end-0 bottom-0 rounded-ss bg-base-100/85 px-2 py-0.5 text-sm">
          {say('Picture {step} of {steps}', { step: acts.step + 1, steps: slide.steps.length })}
        </p>
      )}
    </div>
  )
}

function Foot({ booth, slide, session, acts }: PartProps) {
  const { words, seconds } = spokenLength(slide.script, slide.language ?? booth.language)
  const underWay = isUnderWay(session.state)
  return (
    <footer className="mt-3 grid shrink-0 grid-cols-[auto_11rem_1fr_auto] items-center gap-6 border-t border-base-300 bg-base-200 px-6 py-3 max-lg:grid-cols-[auto_9rem_1fr] max-sm:grid-cols-[auto_1fr] max-sm:gap-3 max-sm:px-3 lg:h-38">
      <RecordKey session={session} disabled={booth.refusal !== null} onPress={acts.record} />
      <div>
        <p className="font-read text-4xl font-semibold" role="timer">
          {clock(session.seconds)}
        </p>
        <p className="text-sm text-base-content/75">
          {words > 0 &&
            say('expected {time} for {words, plural, one {# word} other {# words}}', { time: clock(seconds, 0), words })}
        </p>
      </div>
      <div className="grid grid-cols-[minmax(0,1fr)] gap-1 max-sm:col-span-full">
        <LevelBar level={session.level} />
        <div className="h-14 overflow-auto">
          <p role="status" className="sr-only">
            {session.state === 'recording' ? say('Recording') : ''}
          </p>
          {booth.refusal ? (
            <p role="alert" className="text-sm text-warning">
              {say(booth.refusal)}
            </p>
          ) : (
            <UploadStatus session={session} />
          )}
        </div>
      </div>
      <div className="grid grid-cols-2 gap-1.5 max-lg:col-span-full max-lg:grid-cols-4 max-sm:grid-cols-2">
        {underWay ? (
          <>
            <KeyButton letter="P" words={session.state === 'paused' ? say('Go on') : say('Rest')} onPress={acts.rest} />
            {booth.kind === 'guest' && (
              <KeyButton
                letter="U"
                words={say('Pick up')}
                says={say('Goes back to the last pause, plays two seconds up to there, and records on')}
                disabled={session.state === 'going back'}
                onPress={acts.pickUp}
              />
            )}
          </>
        ) : (
          <KeyButton letter="L" words={say('Listen')} disabled={!session.heard} onPress={acts.listen} />
        )}
        <KeyButton
          letter="→"
          words={acts.hasFurtherPicture ? say('Next picture') : say('Next slide')}
          disabled={!acts.canGoOn}
          onPress={acts.forward}
        />
        {!underWay && <KeyButton letter="←" words={say('Slide before')} disabled={!acts.canGoBack} onPress={acts.backward} />}
      </div>
    </footer>
  )
}

function Head({ booth, session, own }: { booth: OwnBooth; session: SessionView; own: OwnRecordings }) {
  return (
    <header className="flex min-h-11 shrink-0 items-center gap-5 px-5 text-sm text-base-content/75 max-lg:flex-wrap max-lg:gap-y-1 max-lg:py-1.5">
      <h1 title={booth.title} className="truncate font-read text-base font-semibold text-base-content">
        <bdi lang={booth.language}>{booth.title}</bdi>
      </h1>
      <span className="whitespace-nowrap">
        {say('You are {name}', { name: booth.voice!.name })}{' '}
        <button type="button" className="link" disabled={isUnderWay(session.state)} onClick={own.beSomebodyElse}>
          {say('Somebody else?')}
        </button>
      </span>
      <div className="ms-auto flex items-center gap-5 max-sm:ms-0 max-sm:flex-wrap max-sm:gap-x-3 max-sm:gap-y-1">
        <MicrophoneChoice session={session} />
      </div>
    </header>
  )
}

interface GuestBoothProps {
  booth: OwnBooth
  voice: LinkVoice
  onSomebodyElse: () => void
}

export function GuestBooth({ booth, voice, onSomebodyElse }: GuestBoothProps) {
  const [at, setAt] = useState(0)
  const slide = booth.slides[Math.min(at, booth.slides.length - 1)]!
  const session = useRecordingSession(voice.token, slide.id, voice)
  const acts = useGuestActs(booth, session, at, setAt)
  const own = useOwnRecordings(booth, voice, session, onSomebodyElse)
  const parts = { booth, voice, slide, session, acts }
  const picture = slide.steps[acts.step]!
  return (
    <div data-theme="lectern-night" data-fills-window className="flex h-dvh min-h-[600px] flex-col bg-base-100 text-base-content">
      <Head booth={booth} session={session} own={own} />
      <PracticeBanner session={session} />
      <main className="min-h-0 grow @container-size px-5 max-lg:[container-type:normal] max-lg:overflow-auto">
        <div
          className="grid min-h-0 gap-7 lg:h-full lg:grid-cols-[min(62cqw,calc((100cqh-11rem)*var(--shape)))_1fr]"
          style={{ '--shape': picture.width / picture.height } as CSSProperties}
        >
          <div className="grid min-h-0 grid-rows-[auto_minmax(9rem,1fr)] gap-3">
            <Picture {...parts} />
            <div className="grid min-h-0 grid-cols-[1fr_auto] gap-5 max-sm:grid-cols-1">
              <OwnRecordingList booth={booth} slide={slide} own={own} />
              {booth.slides.length > 1 && <SlideChoice booth={booth} voice={voice} acts={acts} at={at} />}
            </div>
          </div>
          <Script key={slide.id} booth={booth} slide={slide} session={session} />
        </div>
      </main>
      <Foot {...parts} />
    </div>
  )
}
