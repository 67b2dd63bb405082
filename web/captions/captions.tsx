/** All captions of the lecture as a reading text: edited as text, checked, in several languages, in and out as files. */

import { CircleAlert } from 'lucide-react'
import { lazy, Suspense, useMemo, useState } from 'react'
import { useDropzone } from 'react-dropzone'
import { useParams } from 'react-router'
import { type CueFinding, checkCues } from '#core/captions/checks/check-cues.ts'
import { cuesOnLecture, type LectureCue, speechOnLecture } from '#core/captions/tracks/place-cues.ts'
import { publishedTracks } from '#core/captions/tracks/published-tracks.ts'
import type { CaptionTrack } from '#core/model/caption.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { say } from '#core/words/say.ts'
import { Loading } from '#web/components/loading.tsx'
import { api, sentenceOf } from '#web/data/api.ts'
import { isActive } from '#web/data/job-state.ts'
import { JobProgress } from '#web/lecture-ui/job-progress.tsx'
import { Transport } from '#web/lecture-ui/transport.tsx'
import { player, usePlayer } from '#web/playback/player.ts'
import { usePlayhead } from '#web/playback/use-playhead.ts'
import { NotFoundPage } from '#web/shell/not-found-page.tsx'
import { TopBar } from '#web/shell/top-bar.tsx'
import { AttachDialog } from './attach/attach-dialog.tsx'
import { NewTrackDialog } from './attach/new-track-dialog.tsx'
import { useAttachCaptions } from './attach/use-attach-captions.ts'
import { CaptionSettings } from './caption-settings.tsx'
import { CueBench } from './cue-bench.tsx'
import { FindReplace } from './find-replace.tsx'
import { SlideCaptions } from './slide-captions.tsx'
import { Tracks } from './tracks.tsx'
import { useCaptionEdits } from './use-caption-edits.ts'
import { goToCue, useCueActs } from './use-cue-acts.ts'
import { useEarTyping } from './without-script/use-ear-typing.ts'

const SpeedChart = lazy(async () => ({ default: (await import('./speed-chart.tsx')).SpeedChart }))

/** What is seen of a track on the lecture's clock, what is read of it here, and what is to be checked in that. */
function useChecked(lecture: Lecture, track: CaptionTrack, translation: CaptionTrack | null) {
  const shown = useMemo(() => cuesOnLecture(lecture, track.cues), [lecture, track])
  const seen = useMemo(() => new Map(shown.map((cue) => [cue.id, cue])), [shown])
  /** In the language that is written here. */
  const read = useMemo(() => (translation ? cuesOnLecture(lecture, translation.cues) : shown), [lecture, translation, shown])
  const listed = useMemo(() => checkCues(read, lecture.lineCharacters, speechOnLecture(lecture)), [read, lecture])
  const waiting = track.cues.filter((cue) => cue.text === '' && cue.scriptText === '')
  const findings = useMemo(() => {
    const byCue = new Map<string, CueFinding[]>()
    for (const f of listed) byCue.set(f.cueId, [...(byCue.get(f.cueId) ?? []), f])
    return byCue
  }, [listed])
  const toCheck = [...findings.keys(), ...waiting.map((cue) => cue.id)]
  return { shown, seen, read, findings, toCheck }
}

/** How fast the captions are to be read along the lecture, and the way to those that are to be checked. */
function ReadingSpeed({ cues, toCheck, onNext }: { cues: readonly LectureCue[]; toCheck: number; onNext: () => void }) {
  return (
    <>
      <div className="mt-3 flex items-center justify-between gap-4 text-sm text-base-content/75">
        <p>{cues.length > 0 && say('Reading speed along the lecture, characters a second')}</p>
        <button
          type="button"
          className={`btn btn-sm border-edge ${toCheck > 0 ? 'text-secondary' : ''}`}
          disabled={toCheck === 0}
          onClick={onNext}
        >
          <CircleAlert size={15} aria-hidden /> {toCheck === 0 ? say('Nothing to check') : say('{toCheck} to check', { toCheck })}
        </button>
      </div>
      {cues.length > 0 && (
        <Suspense fallback={<div className="h-16" />}>
          <SpeedChart cues={cues} onChoose={goToCue} />
        </Suspense>
      )}
    </>
  )
}

function CaptionEditor({
  lecture,
  track,
  translation,
}: {
  lecture: Lecture
  track: CaptionTrack
  translation: CaptionTrack | null
}) {
  const { data: jobs = [] } = api.useJobsQuery()
  const edit = useCaptionEdits(lecture, track)
  const { playing } = usePlayer()
  const [chosenId, setChosenId] = useState<string | null>(null)
  const [heardId, setHeardId] = useState<string | null>(null)
  const [looping, setLooping] = useState(false)
  const [toScript, setToScript] = useState(true)
  const { shown, seen, read, findings, toCheck } = useChecked(lecture, track, translation)
  const ownTrack = translation === null
  const chosen = track.cues.find((cue) => cue.id === chosenId) ?? null

  const goToNextToCheck = (after: string | null) => {
    const at = after ? toCheck.indexOf(after) : -1
    const id = toCheck.slice(at + 1).find((one) => one !== after) ?? toCheck.find((one) => one !== after)
    if (!id) return
    setChosenId(id)
    goToCue(id)
  }
  const { stretchOf, hear, split, step, onKey, addNote } = useCueActs({
    lecture,
    track,
    edit,
    seen,
    looping,
    onChoose: setChosenId,
    onNextToCheck: goToNextToCheck,
  })
  const byEar = useEarTyping({ cues: track.cues, stretchOf, step, goTo: goToCue, onKey })

  usePlayhead((now) => {
    const cue = shown.find((c) => now >= c.start && now < c.end)
    if ((cue?.id ?? null) !== heardId) setHeardId(cue?.id ?? null)
    const loop = looping && playing && chosenId ? stretchOf(chosenId) : null
    if (loop && (now >= loop.end || now < loop.start - 1)) player.seek(loop.start)
  })
  return (
    <>
      <div className="min-w-0">
        {jobs
          .filter((job) => job.kind === 'recognise' && job.lectureId === lecture.id && isActive(job))
          .map((job) => (
            <JobProgress key={job.id} job={job} />
          ))}
        <FindReplace key={track.id} track={translation ?? track} edit={edit} onFound={goToCue} />
        <ReadingSpeed cues={read} toCheck={toCheck.length} onNext={() => goToNextToCheck(chosenId)} />
        {lecture.slides
          .filter((slide) => !slide.hidden)
          .map((slide) => (
            <SlideCaptions
              key={slide.id}
              lecture={lecture}
              slide={slide}
              track={track}
              translation={translation}
              seen={seen}
              findings={findings}
              chosenId={chosenId}
              heardId={heardId}
              toScript={toScript}
              isByEar={byEar.isByEar}
              onByEar={byEar.begin}
              edit={edit}
              onChoose={setChosenId}
              onKey={byEar.onEarKey}
            />
          ))}
      </div>
      <div className="sticky top-4 grid gap-6 self-start max-md:static">
        <section aria-label={say('The chosen caption')}>
          {chosen ? (
            <CueBench
              lecture={lecture}
              track={translation ?? track}
              cue={chosen}
              seen={stretchOf(chosen.id)}
              findings={findings.get(chosen.id) ?? []}
              edit={edit}
              looping={looping}
              onLoop={(on) => {
                setLooping(on)
                if (on) hear(chosen.id)
              }}
              onSplit={() => split(chosen)}
            />
          ) : (
            <p className="border-b border-base-300 pb-4 text-sm text-base-content/75">
              {say('Go into a caption to change its words, divide it, or move it on its sound.')}
            </p>
          )}
        </section>
        {ownTrack && (
          <CaptionSettings
            lecture={lecture}
            isScript={track.origin === 'script'}
            toScript={toScript}
            onToScript={setToScript}
            isByEar={byEar.isByEar}
            onIsByEar={byEar.setIsByEar}
            onAdd={addNote}
          />
        )}
      </div>
    </>
  )
}

export function Captions() {
  const { id } = useParams()
  const { data: lecture, error, isLoading } = api.useLectureQuery(id!)
  const [trackId, setTrackId] = useState<string | null>(null)
  const [file, setFile] = useState<File | null>(null)
  const [translating, setTranslating] = useState(false)
  const attach = useAttachCaptions(id!)
  const zone = useDropzone({
    noClick: true,
    noKeyboard: true,
    multiple: false,
    onDrop: ([dropped]) => dropped && setFile(dropped),
  })
  if (isLoading) return <Loading what={say('the captions')} />
  if (!lecture) return <NotFoundPage sentence={sentenceOf(error)} />
  const scripts = lecture.captionTracks.find((t) => t.origin === 'script')
  const chosen = lecture.captionTracks.find((t) => t.id === trackId) ?? publishedTracks(lecture)[0] ?? lecture.captionTracks[0]
  const translation = chosen?.origin === 'translation' ? chosen : null
  const track = translation ? scripts : chosen
  return (
    <div {...zone.getRootProps()} className="flex min-h-dvh flex-col">
      <TopBar place={say('Captions')} lecture={lecture} />
      <main className="mx-auto grid w-full max-w-[96rem] grow grid-cols-[13rem_minmax(0,1fr)_20rem] content-start gap-8 px-6 py-5 max-lg:grid-cols-[minmax(0,1fr)_18rem] max-md:grid-cols-1">
        <input {...zone.getInputProps()} aria-label={say('Caption file')} />
        <div className="max-lg:col-span-full">
          <Tracks
            lecture={lecture}
            chosen={chosen}
            onChoose={setTrackId}
            onAttach={zone.open}
            onTranslate={() => setTranslating(true)}
          />
        </div>
        {track && <CaptionEditor key={chosen!.id} lecture={lecture} track={track} translation={translation} />}
      </main>
      <Transport lecture={lecture} captionsOf={chosen} />
      {file && (
        <AttachDialog
          lecture={lecture}
          file={file}
          onAttach={async (wanted) => setTrackId((await attach(file, wanted)) ?? trackId)}
          onClose={() => setFile(null)}
        />
      )}
      {translating && <NewTrackDialog lecture={lecture} onMade={setTrackId} onClose={() => setTranslating(false)} />}
    </div>
  )
}
