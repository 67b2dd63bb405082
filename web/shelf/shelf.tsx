/** All lectures: how far each is and what to do next; dropping files anywhere starts a new one. */

import { FilePlus } from 'lucide-react'
import { lazy, Suspense, useEffect, useState } from 'react'
import { useDropzone } from 'react-dropzone'
import { useNavigate } from 'react-router'
import { toast } from 'sonner'
import { say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { Loading } from '#web/components/loading.tsx'
import { usePastedFiles } from '#web/components/use-pasted-files.ts'
import { api, type Job, sentenceOf, thumbnailUrl } from '#web/data/api.ts'
import { shelfApi } from '#web/data/endpoints/shelf.ts'
import { isActive } from '#web/data/job-state.ts'
import { useJobEnd } from '#web/data/use-job-end.ts'
import { JobProgress } from '#web/lecture-ui/job-progress.tsx'
import { ScriptLanguage } from '#web/lecture-ui/script-language.tsx'
import { tellUnused } from '#web/lecture-ui/tell-unused.ts'
import { TopBar } from '#web/shell/top-bar.tsx'
import { isSchool } from '#web/sign-in/is-school.ts'
import { useMayMake } from '#web/sign-in/use-may-make.ts'
import { Lectures } from './lectures.tsx'
import { useShelf } from './use-shelf.ts'

const RoomWarning = lazy(async () => ({ default: (await import('#web/people/own-room.tsx')).RoomWarning }))

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
  const shown = useShelf()
  const { first: shelf, isChosen } = shown
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
      const { lectureId, unmatched, films = [], sounds } = job.result
      for (const id of sounds) whenEnded({ id }, () => {})
      tellUnused(unmatched)
      if (films.length > 0)
        toast(
          say('Shown as films on their slides: {names}. For what is only your voice, bring a sound without a picture.', {
            names: films.join(', '),
          }),
        )
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
        {isSchool() && (
          <Suspense>
            <RoomWarning />
          </Suspense>
        )}
        <Lectures shown={shown} />
        {shelf?.onShelf === 0 && !mayMake && <p>{say('Nothing was shared with you yet.')}</p>}
        {shelf && mayMake && !isChosen && (
          <section
            className={`mt-8 rounded-md border border-dashed border-edge p-8 text-center ${zone.isDragActive ? 'bg-base-200' : ''}`}
          >
            <h2 className="font-read text-xl font-semibold">
              {shelf.onShelf === 0 ? say('Begin with your deck') : say('Another lecture')}
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
              {shelf.onShelf === 0 && shelf.hasDemo && (
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
