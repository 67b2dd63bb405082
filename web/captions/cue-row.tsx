/** One caption in the reading text: when, what it says, and how fast that is to be read. */

import { CircleAlert, Play } from 'lucide-react'
import { type KeyboardEvent, memo } from 'react'
import { type CueFinding, charactersASecond } from '#core/captions/checks/check-cues.ts'
import { speakerOf } from '#core/captions/formats/webvtt/cue-text.ts'
import { READING } from '#core/captions/generate/break-lines.ts'
import type { LectureCue } from '#core/captions/tracks/place-cues.ts'
import type { CaptionTrack, StoredCue } from '#core/model/caption.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { say } from '#core/words/say.ts'
import { clock, inSeconds } from '#web/components/format.ts'
import { player } from '#web/playback/player.ts'
import { CueTextField } from './cue-text-field.tsx'
import { TranslationField } from './translation-field.tsx'

interface CueRowProps {
  lecture: Lecture
  track: CaptionTrack
  /** The caption these words are in another language; null where they are the words themselves. */
  translation: CaptionTrack | null
  translated: StoredCue | null
  cue: StoredCue
  /** When it is seen; null where it is not. */
  seen: LectureCue | null
  findings: readonly CueFinding[]
  chosen: boolean
  heard: boolean
  toScript: boolean
  isByEar: boolean
  onChoose: (cueId: string) => void
  onKey: (event: KeyboardEvent<HTMLTextAreaElement>, cue: StoredCue) => void
}

const FIELD =
  'field-sizing-content block w-full resize-none rounded border bg-transparent px-2 py-1 font-read leading-normal hover:border-edge focus:border-edge focus:bg-base-100'

export const CueRow = memo(function CueRow(props: CueRowProps) {
  const { lecture, track, translation, translated, cue, seen, findings, chosen, heard, toScript, isByEar, onChoose, onKey } =
    props
  const speaker = cue.markup && speakerOf(cue.markup)
  const read = translation ? (translated?.text ?? '') : cue.text
  const cps = seen && read !== '' ? charactersASecond({ ...seen, text: read }) : null
  const moment = seen ? clock(seen.start) : ''
  const said = cue.text.replaceAll('\n', ' ')
  return (
    <li
      id={`cue-${cue.id}`}
      aria-current={heard ? 'true' : undefined}
      className={`grid grid-cols-[5rem_1fr_auto] items-start gap-x-2 border-b border-base-300 py-0.5 max-sm:grid-cols-2 ${heard ? 'bg-primary/15' : chosen ? 'bg-base-200' : ''}`}
    >
      {seen ? (
        <button
          type="button"
          className="mt-1 flex items-center gap-1.5 rounded px-1 py-0.5 text-sm text-base-content/75 hover:bg-base-200 hover:text-base-content"
          aria-label={say('Play from {moment}: {said}', { moment, said })}
          onClick={() => {
            onChoose(cue.id)
            player.play(seen.start)
          }}
        >
          <Play size={12} fill="currentColor" aria-hidden /> {moment}
        </button>
      ) : (
        <span className="mt-1.5 px-1 text-sm text-base-content/75">
          {cue.text === '' && cue.scriptText ? say('left out') : say('not shown')}
        </span>
      )}
      <div className={`max-sm:order-last max-sm:col-span-full ${translation ? 'grid grid-cols-2 gap-3 max-sm:grid-cols-1' : ''}`}>
        <div>
          {speaker && <span className="block px-2 pt-1 text-xs font-semibold text-base-content/75">{speaker}</span>}
          {translation ? (
            <p lang={track.language} dir="auto" className="px-2 py-1 font-read whitespace-pre-line text-base-content/80">
              {cue.text}
            </p>
          ) : cue.text === '' && cue.scriptText !== '' ? (
            <button
              type="button"
              className="px-2 py-1 text-start font-read text-base-content/60 line-through"
              aria-label={say('Left out: {scriptText}', { scriptText: cue.scriptText })}
              onClick={() => onChoose(cue.id)}
            >
              {cue.scriptText}
            </button>
          ) : (
            <CueTextField
              lecture={lecture}
              track={track}
              cue={cue}
              label={say('Caption at {moment}', { moment })}
              toScript={toScript}
              isByEar={isByEar}
              className={`${FIELD} border-transparent`}
              onFocus={() => onChoose(cue.id)}
              onKeyDown={(event) => onKey(event, cue)}
            />
          )}
        </div>
        {translation && (
          <TranslationField
            lecture={lecture}
            track={translation}
            original={cue}
            translated={translated}
            label={say('In {label}, caption at {moment}', { label: translation.label, moment })}
            className={`${FIELD} border-base-300`}
            onFocus={() => onChoose(cue.id)}
          />
        )}
      </div>
      <div className="mt-1.5 flex w-28 items-center max-sm:w-full justify-end gap-2 text-sm text-base-content/75">
        {findings.length > 0 && (
          <CircleAlert
            size={15}
            role="img"
            aria-label={findings.map((f) => f.finding).join('. ')}
            className={findings.some((f) => f.level === 'rule') ? 'text-error' : 'text-secondary'}
          />
        )}
        {cps !== null && (
          <span className={cps > READING.mostCps ? 'font-semibold text-error' : ''} title={say('characters a second')}>
            {say('{rate}/s', { rate: Math.round(cps) })}
          </span>
        )}
        {seen && <span>{inSeconds(seen.end - seen.start)}</span>}
      </div>
    </li>
  )
})
