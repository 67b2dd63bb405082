/** The foot of the booth: the key to record, the time, the level, what is said, and the keys beside it. */

import type { Lecture } from '#core/model/lecture.ts'
import type { Slide } from '#core/model/slide.ts'
import { spokenLength } from '#core/script/pace.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { say } from '#core/words/say.ts'
import { clock } from '#web/components/format.ts'
import { LevelBar } from '#web/microphone/level-bar.tsx'
import { isUnderWay } from '#web/recorder/recording-session.ts'
import { KeyButton } from './session/key-button.tsx'
import { RecordKey } from './session/record-key.tsx'
import type { BoothActs } from './session/use-booth-acts.ts'
import type { PositionInDeck } from './session/use-position-in-deck.ts'
import type { SessionView } from './session/use-recording-session.ts'
import { SessionStatus } from './session-status.tsx'

/** How long it was spoken to this slide, and how long its script takes. */
function Times({ lecture, slide, session, through }: { lecture: Lecture; slide: Slide; session: SessionView; through: boolean }) {
  const { words, points, seconds } = spokenLength(slide.script, slide.language ?? lecture.language)
  const lastMove = session.marks.findLast((mark) => mark.kind === 'slide')
  return (
    <div>
      <p className="font-read text-4xl font-semibold" role="timer">
        {clock(session.seconds - (lastMove ? toSeconds(lastMove.at) : 0))}
      </p>
      <p className="text-sm text-base-content/75">
        {words > 0
          ? say('expected {time} for {words, plural, one {# word} other {# words}}', {
              time: clock(seconds, 0),
              words,
            })
          : points > 0
            ? say('{points, plural, one {# point} other {# points}}, about {time}', { points, time: clock(seconds, 0) })
            : say('no script for this slide')}
        {through && session.seconds > 0 && (
          <span className="block">{say('{time} in all', { time: clock(session.seconds, 0) })}</span>
        )}
      </p>
    </div>
  )
}

/** Keys for while one speaks. */
function SpeakingKeys({ session, acts }: { session: SessionView; acts: BoothActs }) {
  const { state } = session
  return (
    <>
      <KeyButton letter="P" words={state === 'paused' ? say('Go on') : say('Rest')} onPress={acts.rest} />
      <KeyButton
        letter="U"
        words={say('Pick up')}
        says={say('Goes back to the last pause, plays two seconds up to there, and records on')}
        disabled={state === 'going back'}
        onPress={acts.pickUp}
      />
      <KeyButton
        letter="W"
        words={say('That was wrong')}
        says={say('Marks what was said last; cutting it is offered later')}
        disabled={state !== 'recording'}
        onPress={acts.wrong}
      />
      <KeyButton
        letter="B"
        words={say('Bookmark')}
        says={say('Marks this moment for learners, under its slide')}
        disabled={state !== 'recording'}
        onPress={acts.bookmark}
      />
    </>
  )
}

interface BoothFootProps {
  lecture: Lecture
  session: SessionView
  position: PositionInDeck
  acts: BoothActs
  through: boolean
  /** One sentence is said again: nothing goes on to another slide. */
  staysHere: boolean
}

export function BoothFoot({ lecture, session, position, acts, through, staysHere }: BoothFootProps) {
  const { slide, next, before } = position
  const underWay = isUnderWay(session.state)
  const recordsNext = underWay && !through && !acts.furtherPicture
  return (
    <footer className="mt-3 grid shrink-0 grid-cols-[auto_11rem_1fr_auto] items-center gap-6 border-t border-base-300 bg-base-200 px-6 py-3 max-lg:grid-cols-[auto_9rem_1fr] max-sm:grid-cols-[auto_1fr] max-sm:gap-3 max-sm:px-3 lg:h-38">
      <RecordKey session={session} onPress={acts.record} />
      <Times lecture={lecture} slide={slide} session={session} through={through} />
      <div className="grid grid-cols-[minmax(0,1fr)] gap-1 max-sm:col-span-full">
        <LevelBar level={session.level} />
        {/* its place stays when nothing is said, so that nothing moves when something is */}
        <div className="h-14 overflow-auto">
          <SessionStatus lecture={lecture} session={session} />
        </div>
      </div>
      <div className="grid grid-cols-2 gap-1.5 max-lg:col-span-full max-lg:grid-cols-4 max-sm:grid-cols-2">
        {underWay ? (
          <SpeakingKeys session={session} acts={acts} />
        ) : (
          <KeyButton letter="L" words={say('Listen')} disabled={!session.heard} onPress={acts.listen} />
        )}
        <KeyButton
          letter="→"
          words={acts.furtherPicture ? say('Next picture') : recordsNext ? say('Record next') : say('Next slide')}
          says={recordsNext ? say('This take is kept, and the next slide is recorded') : undefined}
          disabled={!acts.furtherPicture && (!next || (underWay && staysHere))}
          onPress={acts.forward}
        />
        {(!underWay || through) && (
          <KeyButton letter="←" words={say('Slide before')} disabled={!before} onPress={acts.backward} />
        )}
      </div>
    </footer>
  )
}
