/** All lectures: how far each is and what to do next; dropping files anywhere starts a new one. */

import { FilePlus, Trash2, TriangleAlert } from 'lucide-react'
import { useEffect, useState } from 'react'
import { useDropzone } from 'react-dropzone'
import { Link, useNavigate } from 'react-router'
import { toast } from 'sonner'
import { holds, type Right } from '#core/people/rights.ts'
import { say } from '#core/words/say.ts'
import { Button, buttonLook } from '#web/components/button.tsx'
import { clock } from '#web/components/format.ts'
import { Loading } from '#web/components/loading.tsx'
import { usePastedFiles } from '#web/components/use-pasted-files.ts'
import { api, type Job, type ShelfEntry, sentenceOf, thumbnailUrl } from '#web/data/api.ts'
import { shelfApi } from '#web/data/endpoints/shelf.ts'
import { editOrTell, undo } from '#web/data/history.ts'
import { isActive } from '#web/data/job-state.ts'
import { useAppDispatch } from '#web/data/store.ts'
import { useJobEnd } from '#web/data/use-job-end.ts'
import { JobProgress } from '#web/lecture-ui/job-progress.tsx'
import { ScriptLanguage } from '#web/lecture-ui/script-language.tsx'
import { tellUnused } from '#web/lecture-ui/tell-unused.ts'
import { TopBar } from '#web/shell/top-bar.tsx'
import { useMayMake } from '#web/sign-in/use-may-make.ts'

/** Who is alone may do everything. */
const mayDo = ({ right }: ShelfEntry, needed: Right) => right === null || holds(right, needed)

function nextStep(entry: ShelfEntry): { text: string; to: string } {
  const base = `/lectures/${entry.id}`
  if (!mayDo(entry, 'edit')) return { text: say('Look at it'), to: base }
  if (entry.nextToRecord)
    return {
      text: entry.narrated === 0 ? say('Record the first slide') : say('Record the next slide'),
      to: `${base}/booth?slide=${entry.nextToRecord}`,
    }
  if (entry.captioned < entry.slides) return { text: say('Add captions'), to: `${base}/captions` }
  return entry.editions === 0
    ? { text: say('Publish'), to: `${base}/publish` }
    : { text: say('See its editions'), to: `${base}/publish` }
}

function Share({ name, done, of }: { name: string; done: number; of: number }) {
  return (
    <div className="grid grid-cols-[6rem_1fr_auto] items-center gap-2 text-sm">
      <span>{name}</span>
      <progress
        className="progress progress-primary h-1.5"
        value={done}
        max={Math.max(1, of)}
        aria-label={say('Slides: {what}', { what: name })}
      />
      <span className="text-base-content/75">{say('{done} of {of}', { done, of })}</span>
    </div>
  )
}

function Entry({ entry }: { entry: ShelfEntry }) {
  const dispatch = useAppDispatch()
  const next = nextStep(entry)
  const remove = async () => {
    const deletion = (deleted: boolean) => [{ kind: 'lecture-deleted' as const, deleted }]
    await dispatch(
      editOrTell({
        lectureId: entry.id,
        label: say('deleting “{title}”', { title: entry.title }),
        forth: deletion(true),
        back: deletion(false),
      }),
    )
    toast(say('“{title}” was deleted.', { title: entry.title }), {
      action: { label: say('Undo'), onClick: () => void dispatch(undo()) },
    })
  }
  return (
    <li className="grid grid-cols-[auto_1fr_auto] items-center gap-6 border-b border-base-300 py-5 max-lg:grid-cols-1">
      <Link to={`/lectures/${entry.id}`} className="flex max-sm:overflow-hidden" tabIndex={-1} aria-hidden="true">
        {entry.thumbnails.map((name, i) => (
          <img
            key={i}
            src={thumbnailUrl(name)}
            alt=""
            width={144}
            height={81}
            className="h-[81px] w-36 border border-base-300 bg-white object-contain not-first:-ms-20 max-sm:h-[63px] max-sm:w-28"
            style={{ zIndex: entry.thumbnails.length - i, position: 'relative' }}
          />
        ))}
      </Link>
      <div className="grid gap-1">
        <Link to={`/lectures/${entry.id}`} className="font-read text-xl font-semibold hover:underline">
          <bdi>{entry.title}</bdi>
        </Link>
        <p className="text-sm text-base-content/75">
          {say('{slides, plural, one {# slide} other {# slides}}', { slides: entry.slides })} · {clock(entry.seconds, 0)} ·{' '}
          {entry.editions === 0
            ? say('not published')
            : say('{editions, plural, one {# edition} other {# editions}}', { editions: entry.editions })}
          {entry.owner !== null && entry.right !== 'own' && (
            <>
              {' · '}
              {say('of {owner}', { owner: entry.owner })}
            </>
          )}
        </p>
        <div className="max-w-sm">
          <Share name={say('Narrated')} done={entry.narrated} of={entry.slides} />
          <Share name={say('Captioned')} done={entry.captioned} of={entry.slides} />
        </div>
      </div>
      <div className="flex items-center gap-2">
        <Link to={next.to} className={buttonLook({ size: 'md' })}>
          {next.text}
        </Link>
        {mayDo(entry, 'own') && (
          <Button kind="ghost" size="md" square aria-label={say('Delete {title}', { title: entry.title })} onClick={remove}>
            <Trash2 size={17} aria-hidden />
          </Button>
        )}
      </div>
    </li>
  )
}

/** In which language the lecture will be: found from the deck, unless whoever brings it says it. */
function ImportLanguage({ job }: { job: Job }) {
  const [choose] = shelfApi.useChooseImportLanguageMutation()
  return (
    <div className="mb-2 flex max-w-sm items-center gap-2 text-sm">
      <span aria-hidden className="shrink-0">
        {say('spoken in')}
      </span>
      <ScriptLanguage
        label={say('Language of the lecture')}
        value={job.chosenLanguage}
        otherwise={say('As the deck has it')}
        onChange={(language) =>
          void choose({ jobId: job.id, language })
            .unwrap()
            .catch((error) => toast.error(sentenceOf(error)))
        }
      />
    </div>
  )
}

/** The first slides of a deck, to be seen while the others are read. */
function RowsSoFar({ job }: { job: Job }) {
  const rows = job.soFar?.rows ?? []
  if (rows.length === 0) return null
  return (
    <ol aria-label={say('Slides so far')} className="border-b border-base-300 pb-3">
      {rows.map((row, i) => (
        <li key={i} className="flex items-center gap-4 border-t border-base-300 py-1.5">
          <span className="w-6 text-end font-read font-semibold">{i + 1}</span>
          <img
            src={thumbnailUrl(row.thumbnail)}
            alt=""
            width={96}
            height={54}
            className="h-[54px] w-24 border border-base-300 bg-white object-contain"
          />
          <bdi className="truncate">{row.title || say('Without a title')}</bdi>
        </li>
      ))}
    </ol>
  )
}

export function Shelf() {
  const { data: shelf, error, isLoading } = shelfApi.useShelfQuery()
  const entries = shelf?.lectures
  const { data: jobs = [] } = api.useJobsQuery()
  const [addDeck, { isLoading: sending }] = shelfApi.useAddDeckMutation()
  const [addDemo] = shelfApi.useAddDemoMutation()
  const [mine, setMine] = useState<string[]>([])
  const navigate = useNavigate()
  const whenEnded = useJobEnd()
  const add = async (files: File[]) => {
    if (files.length === 0) return
    try {
      const job = await addDeck(files).unwrap()
      setMine((known) => [...known, job.id])
    } catch (problem) {
      toast.error(sentenceOf(problem))
    }
  }
  const tryDemo = () =>
    addDemo()
      .unwrap()
      .then(
        (job) => setMine((known) => [...known, job.id]),
        (problem) => toast.error(sentenceOf(problem)),
      )
  const mayMake = useMayMake()
  const zone = useDropzone({ onDrop: (files) => void add(files), noClick: true, noKeyboard: true, disabled: !mayMake })
  usePastedFiles((files) => mayMake && void add(files))

  useEffect(() => {
    const ended = (job: Job) => mine.includes(job.id) && !isActive(job)
    for (const job of jobs.filter(ended)) {
      setMine((known) => known.filter((id) => id !== job.id))
      if (job.state === 'failed') toast.error(job.error ? say(job.error) : say('The deck could not be read.'))
      if ((job.kind !== 'import' && job.kind !== 'demo') || !job.result) continue
      const { lectureId, unmatched, sounds } = job.result
      for (const id of sounds) whenEnded({ id }, () => {})
      tellUnused(unmatched)
      void navigate(`/lectures/${lectureId}`)
    }
  }, [jobs, mine, navigate, whenEnded])

  return (
    <div {...zone.getRootProps()} className="flex min-h-dvh flex-col">
      <TopBar
        place={say('Lectures')}
        action={
          mayMake && (
            <Button kind="primary" onClick={zone.open}>
              <FilePlus size={16} aria-hidden /> {say('New lecture')}
            </Button>
          )
        }
      />
      <main className="mx-auto w-full max-w-5xl grow px-6 py-4">
        {mayMake && <input {...zone.getInputProps()} aria-label={say('Files for a new lecture')} />}
        {sending && <Loading what={say('your files')} />}
        {jobs
          .filter((job) => (job.kind === 'import' || job.kind === 'demo') && isActive(job))
          .map((job) => (
            <div key={job.id}>
              <JobProgress job={job} />
              {job.kind === 'import' && <ImportLanguage job={job} />}
              <RowsSoFar job={job} />
            </div>
          ))}
        {isLoading && <Loading what={say('your lectures')} />}
        {error && <p role="alert">{sentenceOf(error)}</p>}
        {entries && entries.length > 0 && (
          <ul aria-label={say('Lectures')}>
            {entries.map((entry) => (
              <Entry key={entry.id} entry={entry} />
            ))}
          </ul>
        )}
        {shelf?.unreadable.map((lecture) => (
          <p key={lecture.id} role="alert" className="flex items-start gap-3 border-b border-base-300 py-5">
            <TriangleAlert size={18} className="mt-0.5 shrink-0 text-error" aria-hidden />
            <span>
              <bdi className="font-read font-bold">{lecture.title}</bdi>: {say(lecture.problem)}
            </span>
          </p>
        ))}
        {entries?.length === 0 && !mayMake && <p>{say('Nothing was shared with you yet.')}</p>}
        {entries && mayMake && (
          <section
            className={`mt-8 rounded-md border border-dashed border-edge p-8 text-center ${zone.isDragActive ? 'bg-base-200' : ''}`}
          >
            <h2 className="font-read text-xl font-semibold">
              {entries.length === 0 ? say('Begin with your deck') : say('Another lecture')}
            </h2>
            <p className="mx-auto mt-2 max-w-md text-base-content/80">
              {say(
                'Drop your slides anywhere on this page: a PDF, a presentation file (PPTX, ODP), pictures, or a text in Markdown. Best is the presentation file and its PDF together: notes become scripts, and every slide looks as you drew it. Sounds named by slide come along.',
              )}
            </p>
            <p className="mt-4 flex flex-wrap justify-center gap-3">
              <Button size="md" onClick={zone.open}>
                {say('Choose files')}
              </Button>
              {entries.length === 0 && shelf?.hasDemo && (
                <Button size="md" disabled={mine.length > 0} onClick={() => void tryDemo()}>
                  {say('Try it with the demo lecture')}
                </Button>
              )}
            </p>
          </section>
        )}
      </main>
    </div>
  )
}
