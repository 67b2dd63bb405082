/** Recordings of the slide in front: heard again, sent to the teacher, taken back. */
import { Check, LifeBuoy, Play, Square } from 'lucide-react'
import { toSeconds } from '#core/timing/clocks.ts'
import { say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { clock, moment } from '#web/components/format.ts'
import type { BoothSlide, OwnBooth, OwnRecording } from '#web/data/endpoints/voices/record.ts'
import { usePlaying } from '#web/playback/sound.ts'
import type { OwnRecordings } from './use-own-recordings.ts'
import { Privacy } from './welcome.tsx'

function stateOf({ state, isSealed }: OwnRecording): string {
  if (!isSealed) return say('on its way')
  return { unsent: say('not sent yet'), sent: say('sent'), withdrawn: say('withdrawn, gone tomorrow') }[state]
}

function Row({ one, number, own }: { one: OwnRecording; number: number; own: OwnRecordings }) {
  const playing = usePlaying()
  const isPlaying = playing !== null && playing === own.sounds[one.id]
  return (
    <li className="flex flex-wrap items-center gap-2 border-b border-base-300 py-1.5">
      <Button
        kind="ghost"
        square
        disabled={!one.isSealed}
        aria-label={isPlaying ? say('Stop recording {number}', { number }) : say('Listen to recording {number}', { number })}
        onClick={() => own.hear(one.id)}
      >
        {isPlaying ? <Square size={15} fill="currentColor" aria-hidden /> : <Play size={15} fill="currentColor" aria-hidden />}
      </Button>
      <span className="min-w-0 grow">
        <span className={`flex items-center gap-1.5 font-medium ${one.state === 'withdrawn' ? 'line-through' : ''}`}>
          {say('Recording {number}', { number })} · {clock(toSeconds(one.samples))}
          {one.recovered && <LifeBuoy size={14} aria-label={say('recovered')} className="text-secondary" />}
        </span>
        <span className="flex items-center gap-1 text-base-content/75">
          {one.state === 'sent' && <Check size={14} aria-hidden className="text-success" />}
          {stateOf(one)} · {moment(one.startedAt)}
        </span>
      </span>
      {one.state === 'unsent' && one.isSealed && (
        <Button kind="primary" onClick={() => own.send(one.id)} aria-label={say('Send recording {number}', { number })}>
          {say('Send')}
        </Button>
      )}
      {one.state === 'withdrawn' ? (
        <Button onClick={() => own.withdraw(one.id, false)} aria-label={say('Bring back recording {number}', { number })}>
          {say('Bring it back')}
        </Button>
      ) : (
        one.isSealed && (
          <Button
            kind="ghost"
            onClick={() => own.withdraw(one.id, true)}
            aria-label={say('Withdraw recording {number}', { number })}
          >
            {say('Withdraw')}
          </Button>
        )
      )}
    </li>
  )
}

export function OwnRecordingList({ booth, slide, own }: { booth: OwnBooth; slide: BoothSlide; own: OwnRecordings }) {
  const recordings = booth.recordings.filter((one) => one.slideId === slide.id)
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls by arrow keys
    <section tabIndex={0} aria-label={say('Your recordings of this slide')} className="min-h-0 overflow-auto text-sm">
      {recordings.length === 0 && (
        <p className="mb-2">{say('You have recorded nothing for this slide yet. Press R, speak, and press R again.')}</p>
      )}
      <ul>
        {recordings.map((one, i) => (
          <Row key={one.id} one={one} number={i + 1} own={own} />
        ))}
      </ul>
      <div className="mt-2 text-xs">
        <Privacy booth={booth} />
      </div>
    </section>
  )
}
