/** The caption under the cursor: its picture, its sound, and all that can be done with it. */

import { Link2, Mic, Play, Repeat, RotateCcw, Scissors, Trash2 } from 'lucide-react'
import { Link } from 'react-router'
import type { CueFinding } from '#core/captions/checks/check-cues.ts'
import { FIX_WORDS, fixCue } from '#core/captions/checks/check-cues.ts'
import * as edits from '#core/captions/edit/edit-cues.ts'
import { speakerOf } from '#core/captions/formats/webvtt/cue-text.ts'
import type { LectureCue } from '#core/captions/tracks/place-cues.ts'
import type { CaptionTrack, StoredCue } from '#core/model/caption.ts'
import { keptTake } from '#core/model/kept-take.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { figure } from '#core/words/figures.ts'
import { say } from '#core/words/say.ts'
import { Button, buttonLook } from '#web/components/button.tsx'
import { clock } from '#web/components/format.ts'
import { thumbnailUrl } from '#web/data/api.ts'
import { player } from '#web/playback/player.ts'
import { CueStrip } from './cue-strip.tsx'
import { KEYS } from './keys.ts'
import { type CaptionEdits, cuesOfSlide } from './use-caption-edits.ts'

interface CueBenchProps {
  lecture: Lecture
  track: CaptionTrack
  cue: StoredCue
  seen: LectureCue | null
  findings: readonly CueFinding[]
  edit: CaptionEdits
  looping: boolean
  onLoop: (looping: boolean) => void
  onSplit: () => void
}

/** What can be done with a caption of one's own track. */
function CueTools({
  lecture,
  track,
  cue,
  edit,
  isLast,
  onSplit,
}: Pick<CueBenchProps, 'lecture' | 'track' | 'cue' | 'edit' | 'onSplit'> & { isLast: boolean }) {
  const slide = lecture.slides.find((s) => s.id === cue.slideId)!
  const change = (label: string, act: (cues: StoredCue[]) => StoredCue[]) => edit.change(slide.id, label, act)
  const byHand = cue.manualEdit !== null && cue.scriptText !== ''
  return (
    <>
      <div className="flex flex-wrap gap-2">
        <Button onClick={onSplit} title={say('Where the cursor stands: {shown}', { shown: KEYS.split.shown })}>
          <Scissors size={14} aria-hidden /> {say('Divide at the cursor')}
        </Button>
        <Button
          disabled={isLast}
          title={KEYS.join.shown}
          onClick={() => change(say('joining captions'), (cues) => edits.joinNext(cues, cue.id, edit.breakLines))}
        >
          <Link2 size={14} aria-hidden /> {say('Join with the next')}
        </Button>
        {cue.text !== '' && (
          <Button onClick={() => change(say('leaving out a caption'), (cues) => edits.remove(cues, cue.id))}>
            <Trash2 size={14} aria-hidden /> {cue.scriptText ? say('Leave it out') : say('Remove it')}
          </Button>
        )}
        {keptTake(slide) !== null && edits.sentenceOf(cuesOfSlide(track, slide.id), cue.id) && (
          <Link className={buttonLook()} to={`/lectures/${lecture.id}/booth?slide=${slide.id}&again=${cue.id}`}>
            <Mic size={14} aria-hidden /> {say('Say the sentence again')}
          </Link>
        )}
        {byHand && (
          <Button
            title={cue.scriptText}
            onClick={() => change(say('giving a caption back to the script'), (cues) => edits.followScript(cues, cue.id))}
          >
            <RotateCcw size={14} aria-hidden /> {say('As the script has it')}
          </Button>
        )}
      </div>
      <label className="flex items-center gap-2">
        {say('Who speaks')}
        <input
          key={cue.id}
          className="input input-sm w-40 border-edge bg-base-100"
          placeholder={say('nobody named')}
          defaultValue={(cue.markup && speakerOf(cue.markup)) ?? ''}
          onBlur={({ target }) => {
            const named = (cue.markup && speakerOf(cue.markup)) ?? ''
            if (target.value.trim() !== named)
              change(say('speaker of a caption'), (cues) => edits.setSpeaker(cues, cue.id, target.value))
          }}
        />
      </label>
    </>
  )
}

export function CueBench({ lecture, track, cue, seen, findings, edit, looping, onLoop, onSplit }: CueBenchProps) {
  const slide = lecture.slides.find((s) => s.id === cue.slideId)!
  const number = lecture.slides.indexOf(slide) + 1
  const take = slide.takes.find((t) => t.id === cue.takeId) ?? null
  const others = cuesOfSlide(track, slide.id).filter((c) => c.id !== cue.id && c.takeId === cue.takeId && c.text !== '')
  const isLast = others.every((other) => other.start < cue.start)
  const most = take ? toSeconds(take.samples) : 3600
  const change = (label: string, act: (cues: StoredCue[]) => StoredCue[]) => edit.change(slide.id, label, act)
  const ownTrack = track.origin !== 'translation'
  return (
    <div className="grid gap-3 text-sm">
      <div className="flex items-start gap-3">
        <img
          src={thumbnailUrl(slide.steps.at(-1)!.thumbnail)}
          alt={slide.altText}
          width={128}
          height={72}
          className="h-[72px] w-32 border border-base-300 bg-white object-contain"
        />
        <div>
          <p className="font-read font-semibold">
            {number}. <bdi>{slide.title || say('Without a title')}</bdi>
          </p>
          {seen && (
            <p className="text-base-content/75">
              {say('{start} to {end}, {seconds} s', {
                start: clock(seen.start),
                end: clock(seen.end),
                seconds: figure(seen.end - seen.start, 1),
              })}
            </p>
          )}
        </div>
      </div>
      {seen && (
        <p className="flex gap-2">
          <Button onClick={() => player.play(seen.start)}>
            <Play size={14} fill="currentColor" aria-hidden /> {say('Hear it')}
          </Button>
          <button
            type="button"
            className={`btn btn-sm border-edge ${looping ? 'btn-neutral' : ''}`}
            aria-pressed={looping}
            onClick={() => onLoop(!looping)}
          >
            <Repeat size={14} aria-hidden /> {say('Over and over')}
          </button>
        </p>
      )}
      {take?.peaks && ownTrack && (
        <CueStrip
          take={take}
          cue={cue}
          others={others}
          onMove={(edge, seconds) => change(say('time of a caption'), (cues) => edits.nudge(cues, cue.id, edge, seconds, most))}
        />
      )}
      {findings.map((found) => (
        <p key={found.fault} className="border-s-2 border-secondary ps-2">
          {found.finding}.{' '}
          {found.fix && ownTrack && (
            <Button
              kind="primary"
              size="xs"
              className="ms-1"
              onClick={() =>
                change(say('mending a caption'), (cues) =>
                  fixCue(cues, found, {
                    ...edit.options,
                    speech: (take?.analysis?.speech ?? []).map((s) => ({ start: toSeconds(s.start), end: toSeconds(s.end) })),
                    newId: () => crypto.randomUUID(),
                  }),
                )
              }
            >
              {say(FIX_WORDS[found.fix])}
            </Button>
          )}
        </p>
      ))}
      {ownTrack && <CueTools lecture={lecture} track={track} cue={cue} edit={edit} isLast={isLast} onSplit={onSplit} />}
      {keptTake(slide)?.id !== cue.takeId && (
        <p className="text-base-content/75">{say('It belongs to a recording that is not heard now.')}</p>
      )}
    </div>
  )
}
