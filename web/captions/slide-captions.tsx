/** The captions of one slide under its title, and what can be done with all of them. */

import { Download, FileText, Scissors, TimerReset } from 'lucide-react'
import { type KeyboardEvent, useState } from 'react'
import type { CueFinding } from '#core/captions/checks/check-cues.ts'
import { add, retime } from '#core/captions/edit/edit-cues.ts'
import { spansByEar } from '#core/captions/generate/caption-by-ear.ts'
import type { LectureCue } from '#core/captions/tracks/place-cues.ts'
import type { CaptionTrack, StoredCue } from '#core/model/caption.ts'
import { keptTake } from '#core/model/kept-take.ts'
import type { Lecture } from '#core/model/lecture.ts'
import type { Slide } from '#core/model/slide.ts'
import type { Take } from '#core/model/take.ts'
import type { TidyUp } from '#core/model/tidy-up.ts'
import { textOf } from '#core/script/points.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { say } from '#core/words/say.ts'
import { editOrTell } from '#web/data/history.ts'
import { useAppDispatch } from '#web/data/store.ts'
import { CueRow } from './cue-row.tsx'
import { type CaptionEdits, cuesOfSlide } from './use-caption-edits.ts'
import { NoCaptions } from './without-script/no-captions.tsx'
import { SlideWords } from './words/slide-words.tsx'

const isTidied = (take: Take | null): take is Take & { tidyUp: TidyUp } => take?.tidyUp != null

/** The same for all rows, so that they are not drawn again for it. */
const NOTHING: CueFinding[] = []

interface SlideCaptionsProps {
  lecture: Lecture
  slide: Slide
  track: CaptionTrack
  translation: CaptionTrack | null
  seen: ReadonlyMap<string, LectureCue>
  findings: ReadonlyMap<string, CueFinding[]>
  chosenId: string | null
  heardId: string | null
  toScript: boolean
  /** Captions are typed by ear: words are guessed, and keys go on. */
  isByEar: boolean
  /** Empty captions stand there: they are to be typed now. */
  onByEar: (firstCueId: string) => void
  edit: CaptionEdits
  onChoose: (cueId: string) => void
  onKey: (event: KeyboardEvent<HTMLTextAreaElement>, cue: StoredCue) => void
}

export function SlideCaptions(props: SlideCaptionsProps) {
  const { lecture, slide, track, translation, seen, findings, chosenId, heardId, toScript, isByEar, edit, onChoose, onKey } =
    props
  const dispatch = useAppDispatch()
  const [wordsShown, setWordsShown] = useState(false)
  const number = lecture.slides.indexOf(slide) + 1
  const take = keptTake(slide)
  // captions of recordings that are not heard now wait out of sight
  const own = cuesOfSlide(track, slide.id).filter((cue) => cue.takeId === null || cue.takeId === take?.id)
  const ownTrack = track.origin !== 'translation' && translation === null
  const heardSpeech = (take?.analysis?.speech ?? []).map((s) => ({ start: toSeconds(s.start), end: toSeconds(s.end) }))
  const typed = own.filter((cue) => cue.scriptText === '' && cue.text !== '')

  const heard = own.filter((cue) => cue.manualEdit === 'heard').length

  const byEar = () => {
    const spans = spansByEar(heardSpeech).map((span) => ({ ...span, id: crypto.randomUUID() }))
    edit.change(slide.id, say('captions by ear'), (cues) =>
      spans.reduce((list, span) => add(list, { ...span, slideId: slide.id, takeId: take!.id, text: '' }), cues),
    )
    if (spans[0]) props.onByEar(spans[0].id)
  }
  const intoScript = () =>
    void dispatch(
      editOrTell({
        lectureId: lecture.id,
        label: say('captions as script of slide {number}', { number }),
        // the typed captions go: from now on they make themselves from the script
        forth: [
          { kind: 'captions', trackId: track.id, slideId: slide.id, cues: [] },
          { kind: 'slide', id: slide.id, change: { script: typed.map((cue) => cue.text.replaceAll('\n', ' ')).join(' ') } },
        ],
        back: [
          { kind: 'slide', id: slide.id, change: { script: slide.script } },
          { kind: 'captions', trackId: track.id, slideId: slide.id, cues: own },
        ],
      }),
    )
  return (
    <section aria-labelledby={`captions-${slide.id}`} className="[contain-intrinsic-size:auto_12rem] [content-visibility:auto]">
      <div className="mt-7 mb-1 flex flex-wrap items-baseline gap-x-4 gap-y-1">
        <h2 id={`captions-${slide.id}`} className="font-read text-lg font-semibold">
          {number}. <bdi>{slide.title || say('Without a title')}</bdi>
        </h2>
        <span className="ms-auto flex flex-wrap gap-x-3 text-sm">
          {ownTrack && isTidied(take) && heardSpeech.length > 0 && (
            <button
              type="button"
              className="link flex items-center gap-1"
              aria-expanded={wordsShown}
              onClick={() => setWordsShown(!wordsShown)}
            >
              <Scissors size={14} aria-hidden /> {say('Cut words out')}
            </button>
          )}
          {ownTrack && own.some((cue) => cue.manualEdit === 'time' && cue.scriptText !== '') && (
            <button
              type="button"
              className="link flex items-center gap-1"
              onClick={() => edit.change(slide.id, say('timing captions anew'), retime)}
            >
              <TimerReset size={14} aria-hidden /> {say('Time them by the voice again')}
            </button>
          )}
          {heard > 0 && (
            <span className="text-secondary">
              {say('{heard, plural, one {One caption} other {# captions}} heard, not checked', { heard })}
            </span>
          )}
          {ownTrack && track.origin === 'script' && typed.length > 0 && heard === 0 && textOf(slide.script).trim() === '' && (
            <button type="button" className="link flex items-center gap-1" onClick={intoScript}>
              <FileText size={14} aria-hidden /> {say('Make this the script')}
            </button>
          )}
          {own.some((cue) => cue.text !== '') && (
            <a
              className="link flex items-center gap-1 text-base-content/75"
              href={`/api/lectures/${lecture.id}/captions/${(translation ?? track).id}.vtt?slide=${slide.id}`}
            >
              <Download size={14} aria-hidden /> {say('.vtt of this slide')}
            </a>
          )}
        </span>
      </div>
      {wordsShown && isTidied(take) && <SlideWords lecture={lecture} slide={slide} take={take} />}
      {own.length === 0 && (
        <NoCaptions
          lecture={lecture}
          slide={slide}
          canType={take !== null && heardSpeech.length > 0 && ownTrack}
          isScript={track.origin === 'script'}
          onByEar={byEar}
        />
      )}
      <ol>
        {own.map((cue) => (
          <CueRow
            key={cue.id}
            lecture={lecture}
            track={track}
            translation={translation}
            translated={translation?.cues.find((c) => c.id === cue.id) ?? null}
            cue={cue}
            seen={seen.get(cue.id) ?? null}
            findings={findings.get(cue.id) ?? NOTHING}
            chosen={cue.id === chosenId}
            heard={cue.id === heardId}
            toScript={toScript && track.origin === 'script'}
            isByEar={isByEar}
            onChoose={onChoose}
            onKey={onKey}
          />
        ))}
      </ol>
    </section>
  )
}
