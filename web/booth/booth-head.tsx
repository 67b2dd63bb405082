/** The head of the booth: which slide, how it is recorded, with which microphone, and the way out. */

import { Link } from 'react-router'
import type { Lecture } from '#core/model/lecture.ts'
import { say } from '#core/words/say.ts'
import { Key } from '#web/components/keys/key.tsx'
import { isUnderWay } from '#web/recorder/recording-session.ts'
import { MicrophoneChoice } from './microphone-choice.tsx'
import type { SessionView } from './session/use-recording-session.ts'

interface BoothHeadProps {
  lecture: Lecture
  index: number
  session: SessionView
  /** null while one sentence is said again. */
  through: boolean | null
  onThrough: (through: boolean) => void
  countdown: number
  onCountdown: (seconds: number) => void
}

export function BoothHead({ lecture, index, session, through, onThrough, countdown, onCountdown }: BoothHeadProps) {
  const underWay = isUnderWay(session.state)
  return (
    <header className="flex min-h-11 shrink-0 items-center gap-5 px-5 text-sm text-base-content/75 max-lg:flex-wrap max-lg:gap-y-1 max-lg:py-1.5">
      <h1 title={lecture.title} className="truncate font-read text-base font-semibold text-base-content">
        <bdi lang={lecture.language}>{lecture.title}</bdi>
      </h1>
      <span className="whitespace-nowrap">
        {say('Slide {index} of {slides}', { index: index + 1, slides: lecture.slides.length })}
      </span>
      <fieldset className="flex items-center gap-3 max-sm:flex-wrap max-sm:gap-y-0" aria-label={say('How to record')}>
        {[false, true].map((how) => (
          <label key={String(how)} className="flex min-h-6 items-center gap-1.5 whitespace-nowrap">
            <input
              type="radio"
              name="how"
              className="radio radio-xs border-edge"
              checked={(through ?? false) === how}
              disabled={underWay || through === null}
              onChange={() => onThrough(how)}
            />
            {how ? say('Straight through') : say('Slide by slide')}
          </label>
        ))}
      </fieldset>
      <label className="flex items-center gap-1.5 whitespace-nowrap max-lg:hidden">
        <input
          type="checkbox"
          className="checkbox checkbox-xs border-edge"
          checked={countdown > 0}
          onChange={({ target }) => onCountdown(target.checked ? 3 : 0)}
        />
        {say('count 3, 2, 1')}
      </label>
      <div className="ms-auto flex items-center gap-5 max-sm:ms-0 max-sm:flex-wrap max-sm:gap-x-3 max-sm:gap-y-1">
        <MicrophoneChoice session={session} />
        <Link to={`/lectures/${lecture.id}`} className="flex items-center gap-1.5 whitespace-nowrap hover:text-base-content">
          {say('To the sheet')} {!underWay && session.state !== 'counting' && <Key>{say('Esc')}</Key>}
        </Link>
      </div>
    </header>
  )
}
