/** What of a script was read: figures, and each thing that is told with a way to hear it. */
import type { ReadingEvent, ReadingEventKind } from '#core/captions/reading/reading-report.ts'
import { canBeTimed, relatedVoice } from '#core/script/timed-languages.ts'
import { figure } from '#core/words/figures.ts'
import { languageName } from '#core/words/language-name.ts'
import { type Message, message, say } from '#core/words/say.ts'
import { clock, inSeconds } from '#web/components/format.ts'
import type { Answer } from '#web/data/endpoints/voices/voice-links.ts'
import { COLUMNS } from '#web/sheet/scale.tsx'

const WORDS: Record<ReadingEventKind, { name: Message; look: string }> = {
  'left-out': { name: message('left out'), look: 'border-error' },
  repeated: { name: message('said again'), look: 'border-info' },
  'read-otherwise': { name: message('read otherwise'), look: 'border-error' },
  listen: { name: message('listen'), look: 'border-edge border-dashed' },
  pause: { name: message('pause'), look: 'border-edge' },
  hesitation: { name: message('waits over 3 s'), look: 'border-secondary' },
}
/** Heard around what is told, seconds. */
const AROUND_S = 1

interface ReadingFiguresProps {
  answer: Answer
  script: string
  /** Of the script. */
  language: string
  /** Seconds of the recording. */
  onHear: (start: number, end: number) => void
}

function Told({ event, name, onHear }: { event: ReadingEvent; name: string; onHear: ReadingFiguresProps['onHear'] }) {
  const { kind, text, start, end } = event
  const what = text === '' ? inSeconds(end - start) : text
  return (
    <li>
      <button
        type="button"
        className={`flex items-baseline gap-1.5 rounded border px-2 py-0.5 text-start text-sm hover:bg-base-300 ${WORDS[kind].look}`}
        aria-label={say('Hear {name} at {time}: {kind}, {what}', { name, time: clock(start), kind: say(WORDS[kind].name), what })}
        onClick={() => onHear(start - AROUND_S, end + AROUND_S)}
      >
        <span className="text-xs text-base-content/75">{say(WORDS[kind].name)}</span>
        <bdi className={kind === 'left-out' ? 'line-through' : ''}>{what}</bdi>
      </button>
    </li>
  )
}

/** Why no figures stand here; null where none are looked for. */
function without({ answer: { report, clip }, script, language }: ReadingFiguresProps): string | null {
  if (report) return report.isSure ? null : say('Little of the script was heard for sure: listen to it.')
  if (clip === null || script.trim() === '' || canBeTimed(language) || relatedVoice(language) !== null) return null
  return say('The app cannot listen for words in {language} yet: listen to it.', { language: languageName(language) })
}

export function ReadingFigures(props: ReadingFiguresProps) {
  const { answer, onHear } = props
  const { report, isScriptChanged } = answer
  const why = without(props)
  if (why !== null) return <p className="mt-1 ps-14 text-sm text-base-content/75 max-md:ps-4">{why}</p>
  if (!report) return null
  const { correctPerMinute, correct, words, seconds, events } = report
  return (
    <div className={`${COLUMNS} mt-1`}>
      <p className="ps-14 pe-2 text-sm max-md:ps-4">
        <span className="font-read text-lg font-semibold">{figure(correctPerMinute)}</span> {say('correct words/min')}
        <span className="block text-xs text-base-content/75">
          {say('{correct} of {words} words in {seconds}', { correct, words, seconds: inSeconds(seconds, 0) })}
        </span>
        {isScriptChanged && (
          <span className="block text-xs text-warning">{say('The script was changed after this was read.')}</span>
        )}
      </p>
      {events.length > 0 && (
        <ul
          aria-label={say('What is to be heard in the reading of {name}', { name: answer.name })}
          className="flex flex-wrap content-start gap-1.5"
        >
          {events.map((event) => (
            <Told key={`${event.kind} ${event.start} ${event.text}`} event={event} name={answer.name} onHear={onHear} />
          ))}
        </ul>
      )}
    </div>
  )
}
