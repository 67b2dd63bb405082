/** All captions of the lecture as a reading text: edited as text, checked, in several languages, in and out as files. */
import { CircleAlert, MessageSquarePlus } from 'lucide-react'
import { type KeyboardEvent, lazy, Suspense, useCallback, useMemo, useRef, useState } from 'react'
import { useDropzone } from 'react-dropzone'
import { useParams } from 'react-router'
import { toast } from 'sonner'
import { type CueFinding, checkCues } from '#core/captions/checks/check-cues.ts'
import * as edits from '#core/captions/edit/edit-cues.ts'
import { LINE_CHARACTERS } from '#core/captions/generate/break-lines.ts'
import { cuesOnLecture, placeCues, speechOnLecture } from '#core/captions/tracks/place-cues.ts'
import { publishedTracks } from '#core/captions/tracks/published-tracks.ts'
import type { CaptionTrack, StoredCue } from '#core/model/caption.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { Loading } from '#web/components/loading.tsx'
import { api, sentenceOf } from '#web/data/api.ts'
import { editOrTell } from '#web/data/history.ts'
import { isActive } from '#web/data/job-state.ts'
import { useAppDispatch } from '#web/data/store.ts'
import { JobProgress } from '#web/lecture-ui/job-progress.tsx'
import { Transport } from '#web/lecture-ui/transport.tsx'
import { player, usePlayer } from '#web/playback/player.ts'
import { usePlayhead } from '#web/playback/use-playhead.ts'
import { NotFoundPage } from '#web/shell/not-found-page.tsx'
import { TopBar } from '#web/shell/top-bar.tsx'
import { AttachDialog } from './attach/attach-dialog.tsx'
import { NewTrackDialog } from './attach/new-track-dialog.tsx'
import { useAttachCaptions } from './attach/use-attach-captions.ts'
import { CueBench } from './cue-bench.tsx'
import { FindReplace } from './find-replace.tsx'
import { KEYS, type KeyName, keyOf } from './keys.ts'
import { SlideCaptions } from './slide-captions.tsx'
import { Tracks } from './tracks.tsx'
import { cuesOfSlide, useCaptionEdits } from './use-caption-edits.ts'

const SpeedChart = lazy(async () => ({ default: (await import('./speed-chart.tsx')).SpeedChart }))

const NUDGE_S = 0.1
const NOTE_S = 2.5

const fieldOf = (cueId: string) => document.querySelector<HTMLTextAreaElement>(`#cue-${CSS.escape(cueId)} textarea`)

function goTo(cueId: string) {
  const row = document.getElementById(`cue-${cueId}`)
  row?.scrollIntoView({ block: 'center' })
  ;(fieldOf(cueId) ?? row?.querySelector('button'))?.focus({ preventScroll: true })
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
  const dispatch = useAppDispatch()
  const { data: jobs = [] } = api.useJobsQuery()
  const { data: recogniser } = api.useRecogniserQuery()
  const edit = useCaptionEdits(lecture, track)
  const { playing } = usePlayer()
  const [chosenId, setChosenId] = useState<string | null>(null)
  const [heardId, setHeardId] = useState<string | null>(null)
  const [looping, setLooping] = useState(false)
  const [toScript, setToScript] = useState(true)
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
  const ownTrack = translation === null
  const chosen = track.cues.find((cue) => cue.id === chosenId) ?? null

  usePlayhead((now) => {
    const cue = shown.find((c) => now >= c.start && now < c.end)
    if ((cue?.id ?? null) !== heardId) setHeardId(cue?.id ?? null)
    const loop = looping && playing && chosenId ? stretchOf(chosenId) : null
    if (loop && (now >= loop.end || now < loop.start - 1)) player.seek(loop.start)
  })
  /** On the lecture's clock, also of captions that say nothing yet. */
  const stretchOf = (cueId: string) => {
    const known = seen.get(cueId)
    const cue = track.cues.find((c) => c.id === cueId)
    return known ?? (cue && (cuesOnLecture(lecture, [{ ...cue, text: '…' }])[0] ?? null)) ?? null
  }
  const hear = (cueId: string) => {
    const stretch = stretchOf(cueId)
    if (stretch) player.play(stretch.start)
  }
  const step = (cue: StoredCue, by: 1 | -1) => {
    const order = lecture.slides.flatMap((slide) => cuesOfSlide(track, slide.id)).filter((c) => fieldOf(c.id))
    const next = order[order.findIndex((c) => c.id === cue.id) + by]
    if (!next) return
    goTo(next.id)
    if (looping) hear(next.id)
  }
  const split = (cue: StoredCue) => {
    const field = fieldOf(cue.id)
    // the text as it is saved: what was typed a moment ago is on its way
    if (field)
      edit.change(cue.slideId, 'dividing a caption', (cues) =>
        edits.split(edits.setText(cues, cue.id, field.value), cue.id, field.selectionStart, crypto.randomUUID()),
      )
  }
  const nudge = (cue: StoredCue, edge: 'start' | 'end', by: number) => {
    const take = lecture.slides.flatMap((s) => s.takes).find((t) => t.id === cue.takeId)
    const most = take ? toSeconds(take.samples) : 3600
    edit.change(cue.slideId, 'time of a caption', (cues) => edits.nudge(cues, cue.id, edge, by, most))
  }
  const acts: Record<KeyName, (cue: StoredCue) => void> = {
    split,
    join: (cue) => edit.change(cue.slideId, 'joining captions', (cues) => edits.joinNext(cues, cue.id, edit.breakLines)),
    hear: (cue) => (playing ? player.pause() : hear(cue.id)),
    back: () => player.seek(player.position() - 2),
    next: (cue) => step(cue, 1),
    before: (cue) => step(cue, -1),
    earlier: (cue) => nudge(cue, 'start', -NUDGE_S),
    later: (cue) => nudge(cue, 'start', NUDGE_S),
    shorter: (cue) => nudge(cue, 'end', -NUDGE_S),
    longer: (cue) => nudge(cue, 'end', NUDGE_S),
  }
  const latest = useRef(acts)
  latest.current = acts
  const onKey = useCallback((event: KeyboardEvent<HTMLTextAreaElement>, cue: StoredCue) => {
    const key = keyOf(event)
    if (!key) return
    event.preventDefault()
    latest.current[key](cue)
  }, [])
  const addNote = () => {
    const now = player.position()
    const { placed, problems } = placeCues(lecture, [
      { start: now, end: now + NOTE_S, text: '[sound]', markup: null, settings: '', line: 1 },
    ])
    const [note] = placed
    if (!note) {
      toast(problems[0]?.message.replace('so it was left out', 'so no caption can be put here') ?? 'No caption can be put here.')
      return
    }
    const id = crypto.randomUUID()
    edit.change(note.slideId, 'adding a caption', (cues) => edits.add(cues, { ...note, id }))
    setChosenId(id)
    requestAnimationFrame(() => goTo(id))
  }
  const nextToCheck = () => {
    const at = chosenId ? toCheck.indexOf(chosenId) : -1
    const id = toCheck[(at + 1) % toCheck.length]
    if (!id) return
    setChosenId(id)
    goTo(id)
  }
  const lineCharacters = (value: number) =>
    void dispatch(
      editOrTell({
        lectureId: lecture.id,
        label: 'length of caption lines',
        forth: [{ kind: 'lecture', change: { lineCharacters: value } }],
        back: [{ kind: 'lecture', change: { lineCharacters: lecture.lineCharacters } }],
      }),
    )
  return (
    <>
      <div className="min-w-0">
        {jobs
          .filter((job) => job.kind === 'recognise' && job.lectureId === lecture.id && isActive(job))
          .map((job) => (
            <JobProgress key={job.id} job={job} />
          ))}
        <FindReplace key={track.id} track={translation ?? track} edit={edit} onFound={goTo} />
        <div className="mt-3 flex items-center justify-between gap-4 text-sm text-base-content/75">
          <p>{read.length > 0 && 'Reading speed along the lecture, characters a second'}</p>
          <button
            type="button"
            className={`btn btn-sm border-edge ${toCheck.length > 0 ? 'text-secondary' : ''}`}
            disabled={toCheck.length === 0}
            onClick={nextToCheck}
          >
            <CircleAlert size={15} aria-hidden /> {toCheck.length === 0 ? 'Nothing to check' : `${toCheck.length} to check`}
          </button>
        </div>
        {read.length > 0 && (
          <Suspense fallback={<div className="h-16" />}>
            <SpeedChart cues={read} onChoose={goTo} />
          </Suspense>
        )}
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
              edit={edit}
              onChoose={setChosenId}
              onKey={onKey}
            />
          ))}
      </div>
      <div className="sticky top-4 grid gap-6 self-start max-md:static">
        <section aria-label="The chosen caption">
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
              Go into a caption to change its words, divide it, or move it on its sound.
            </p>
          )}
        </section>
        {ownTrack && (
          <section aria-label="How captions are made" className="grid gap-2 text-sm">
            {track.origin === 'script' && (
              <>
                <label className="flex items-center gap-2">
                  <input
                    type="checkbox"
                    className="checkbox checkbox-xs border-edge"
                    checked={toScript}
                    onChange={({ target }) => setToScript(target.checked)}
                  />
                  words changed here change the script too
                </label>
                <label className="flex items-center gap-2">
                  Characters a line
                  <select
                    className="select select-xs w-16 border-edge bg-base-100"
                    value={lecture.lineCharacters}
                    onChange={({ target }) => lineCharacters(Number(target.value))}
                  >
                    {Array.from({ length: LINE_CHARACTERS.most - LINE_CHARACTERS.least + 1 }, (_, i) => (
                      <option key={i} value={LINE_CHARACTERS.least + i}>
                        {LINE_CHARACTERS.least + i}
                      </option>
                    ))}
                  </select>
                </label>
              </>
            )}
            <button type="button" className="btn btn-sm w-fit border-edge" onClick={addNote}>
              <MessageSquarePlus size={15} aria-hidden /> Add a caption at the playhead
            </button>
            {recogniser && !recogniser.installed && (
              <p className="text-base-content/75">
                No speech recogniser ships with Tidy Lectern; an administrator can add one. Without it, slides without a script
                are typed by ear.
              </p>
            )}
            <details className="text-base-content/75">
              <summary className="cursor-pointer">Keys while typing</summary>
              <dl className="mt-1 grid grid-cols-[auto_1fr] gap-x-3">
                {Object.values(KEYS).map((key) => (
                  <div key={key.shown} className="contents">
                    <dt>
                      <kbd className="kbd kbd-xs">{key.shown}</kbd>
                    </dt>
                    <dd>{key.does}</dd>
                  </div>
                ))}
              </dl>
            </details>
          </section>
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
  if (isLoading) return <Loading what="the captions" />
  if (!lecture) return <NotFoundPage sentence={sentenceOf(error)} />
  const scripts = lecture.captionTracks.find((t) => t.origin === 'script')
  const chosen = lecture.captionTracks.find((t) => t.id === trackId) ?? publishedTracks(lecture)[0] ?? lecture.captionTracks[0]
  const translation = chosen?.origin === 'translation' ? chosen : null
  const track = translation ? scripts : chosen
  return (
    <div {...zone.getRootProps()} className="flex min-h-dvh flex-col">
      <input {...zone.getInputProps()} aria-label="Caption file" />
      <TopBar lecture={lecture} />
      <main className="mx-auto grid w-full max-w-[96rem] grow grid-cols-[13rem_minmax(0,1fr)_20rem] content-start gap-8 px-6 py-5 max-lg:grid-cols-[minmax(0,1fr)_18rem] max-md:grid-cols-1">
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
