/** The captions of one slide under its title, and what can be done with all of them. */

import { AudioLines, Download, Ear, FileText, Mic, TimerReset } from 'lucide-react'
import type { KeyboardEvent } from 'react'
import { Link } from 'react-router'
import { toast } from 'sonner'
import type { CueFinding } from '#core/captions/checks/check-cues.ts'
import { add, retime } from '#core/captions/edit/edit-cues.ts'
import { spansByEar } from '#core/captions/generate/caption-by-ear.ts'
import type { LectureCue } from '#core/captions/tracks/place-cues.ts'
import type { CaptionTrack, StoredCue } from '#core/model/caption.ts'
import { keptTake } from '#core/model/kept-take.ts'
import type { Lecture } from '#core/model/lecture.ts'
import type { Slide } from '#core/model/slide.ts'
import { textOf } from '#core/script/points.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { sentenceOf } from '#web/data/api.ts'
import { captionsApi } from '#web/data/endpoints/captions.ts'
import { editOrTell } from '#web/data/history.ts'
import { useAppDispatch } from '#web/data/store.ts'
import { useJobEnd } from '#web/data/use-job-end.ts'
import { CueRow } from './cue-row.tsx'
import { type CaptionEdits, cuesOfSlide } from './use-caption-edits.ts'

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
  edit: CaptionEdits
  onChoose: (cueId: string) => void
  onKey: (event: KeyboardEvent<HTMLTextAreaElement>, cue: StoredCue) => void
}

/** What can be done about a slide that has no captions. */
function NoCaptions({
  lecture,
  slide,
  canType,
  isScript,
  onByEar,
}: {
  lecture: Lecture
  slide: Slide
  canType: boolean
  isScript: boolean
  onByEar: () => void
}) {
  const { data: recogniser } = captionsApi.useRecogniserQuery()
  const [recognise] = captionsApi.useRecogniseMutation()
  const whenEnded = useJobEnd()
  const take = keptTake(slide)
  return (
    <p className="flex flex-wrap items-center gap-2 border-b border-base-300 pb-2 text-base-content/75">
      {say('No captions here.')}
      {canType ? (
        <>
          <Button onClick={onByEar}>
            <AudioLines size={15} aria-hidden /> {say('Type them by ear')}
          </Button>
          {recogniser?.installed && isScript && (
            <Button
              onClick={() =>
                recognise(slide.id)
                  .unwrap()
                  .then((job) => whenEnded(job, () => {}))
                  .catch((error) => toast.error(sentenceOf(error)))
              }
            >
              <Ear size={15} aria-hidden /> {say('Let the recogniser write them')}
            </Button>
          )}
          <Link className="link" to={`/lectures/${lecture.id}/slides/${slide.id}`}>
            {slide.script.trim() ? say('See the script') : say('Or write the script, and they time themselves')}
          </Link>
        </>
      ) : (
        <Link
          className="link flex items-center gap-1"
          to={`/lectures/${lecture.id}/${take ? `slides/${slide.id}` : `booth?slide=${slide.id}`}`}
        >
          <Mic size={14} aria-hidden />{' '}
          {slide.script.trim() || take
            ? say('Record the slide, and they make themselves')
            : say('Write its script and record it, and they make themselves')}
        </Link>
      )}
    </p>
  )
}

export function SlideCaptions(props: SlideCaptionsProps) {
  const { lecture, slide, track, translation, seen, findings, chosenId, heardId, toScript, edit, onChoose, onKey } = props
  const dispatch = useAppDispatch()
  const number = lecture.slides.indexOf(slide) + 1
  const take = keptTake(slide)
  // captions of recordings that are not heard now wait out of sight
  const own = cuesOfSlide(track, slide.id).filter((cue) => cue.takeId === null || cue.takeId === take?.id)
  const ownTrack = track.origin !== 'translation' && translation === null
  const heardSpeech = (take?.analysis?.speech ?? []).map((s) => ({ start: toSeconds(s.start), end: toSeconds(s.end) }))
  const typed = own.filter((cue) => cue.scriptText === '' && cue.text !== '')

  const byEar = () =>
    edit.change(slide.id, say('captions by ear'), (cues) =>
      spansByEar(heardSpeech).reduce(
        (list, span) => add(list, { ...span, id: crypto.randomUUID(), slideId: slide.id, takeId: take!.id, text: '' }),
        cues,
      ),
    )
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
          {ownTrack && own.some((cue) => cue.manualEdit === 'time' && cue.scriptText !== '') && (
            <button
              type="button"
              className="link flex items-center gap-1"
              onClick={() => edit.change(slide.id, say('timing captions anew'), retime)}
            >
              <TimerReset size={14} aria-hidden /> {say('Time them by the voice again')}
            </button>
          )}
          {ownTrack && track.origin === 'script' && typed.length > 0 && textOf(slide.script).trim() === '' && (
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
            onChoose={onChoose}
            onKey={onKey}
          />
        ))}
      </ol>
    </section>
  )
}
