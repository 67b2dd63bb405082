/** The running sheet: one row a slide, all drawn to one seconds-per-pixel scale. */

import { lazy, Suspense, useRef, useState } from 'react'
import { useDropzone } from 'react-dropzone'
import { useParams } from 'react-router'
import { toast } from 'sonner'

import type { Lecture } from '#core/model/lecture.ts'
import { say } from '#core/words/say.ts'
import { useAttachCaptions } from '#web/captions/attach/use-attach-captions.ts'
import { Loading } from '#web/components/loading.tsx'
import { usePastedFiles } from '#web/components/use-pasted-files.ts'
import { useWidth } from '#web/components/use-width.ts'
import { api, sentenceOf } from '#web/data/api.ts'
import { isActive } from '#web/data/job-state.ts'
import { JobProgress } from '#web/lecture-ui/job-progress.tsx'
import { Transport } from '#web/lecture-ui/transport.tsx'
import { useOpenComments } from '#web/sharing/comments/use-open-comments.ts'
import { useMayChange } from '#web/sharing/use-may-change.ts'
import { NotFoundPage } from '#web/shell/not-found-page.tsx'
import { TopBar } from '#web/shell/top-bar.tsx'
import { usePictureActs } from './bench/use-picture-acts.ts'
import { useNewDeck } from './new-deck/use-new-deck.ts'
import { Rows, type RowsHandle } from './rows.tsx'
import { Ruler, scaleFor } from './scale.tsx'
import { SheetAction, SheetHead } from './sheet-head.tsx'
import { chosenRows, type Filter, useSheet } from './use-sheet.ts'

// what is seen only after something was dropped is loaded then
const AttachDialog = lazy(async () => ({ default: (await import('#web/captions/attach/attach-dialog.tsx')).AttachDialog }))
const BringSounds = lazy(async () => ({ default: (await import('./bring-sounds.tsx')).BringSounds }))
const ReplaceDeck = lazy(async () => ({ default: (await import('./new-deck/replace-deck.tsx')).ReplaceDeck }))

/** By name: what is in it is judged by the server. */
const CAPTIONS = /\.(vtt|srt)$/i
const DECKS = /\.(pdf|pptx|odp|md|markdown)$/i
const PICTURES = /\.(png|jpe?g|webp|gif|avif|svg|tiff?|bmp|hei[cf])$/i

/** Sounds on their way in, which take more than a moment. */
function Incoming({ lectureId }: { lectureId: string }) {
  const { data: jobs = [] } = api.useJobsQuery()
  const coming = jobs.filter(
    (job) =>
      job.lectureId === lectureId && isActive(job) && ['import-sound', 'film', 'bed', 'split-recording'].includes(job.kind),
  )
  if (coming.length === 0) return null
  return (
    <div className="border-b border-base-300 px-4">
      {coming.slice(0, 3).map((job) => (
        <JobProgress key={job.id} job={job} />
      ))}
      {coming.length > 3 && (
        <p className="pb-2 text-sm text-base-content/75">{say('and {coming} more', { coming: coming.length - 3 })}</p>
      )}
    </div>
  )
}

/** What the page is called: a slide that is opened has a name of its own. */
function placeOf(lecture: Lecture, slideId: string | null): string {
  const opened = lecture.slides.findIndex((slide) => slide.id === slideId)
  return opened < 0 ? say('Sheet') : say('Slide {number}', { number: opened + 1 })
}

function Loaded({ lecture }: { lecture: Lecture }) {
  const { data: published } = api.useEditionsQuery(lecture.id)
  const data = useSheet(lecture, published?.editions[0], useOpenComments(lecture.id))
  const mayChange = useMayChange(lecture.id)
  const [filter, setFilter] = useState<Filter>('all')
  const [search, setSearch] = useState('')
  const [sounds, setSounds] = useState<File[]>([])
  const [measure, width] = useWidth()
  const rowsHandle = useRef<RowsHandle>(null)
  const { slideId = null } = useParams()
  const [captions, setCaptions] = useState<File | null>(null)
  const attach = useAttachCaptions(lecture.id)
  const acts = usePictureActs(lecture)
  const newDeck = useNewDeck(lecture.id)
  const bring = (files: File[]) => {
    const decks = files.filter((file) => DECKS.test(file.name))
    if (decks.length > 0) {
      const isRescue = filter === 'from-deck' && decks.every((file) => /\.pdf$/i.test(file.name))
      newDeck.compare(
        decks,
        files.filter((file) => !decks.includes(file)),
        isRescue ? rows.map((row) => row.slide.id) : null,
      )
      return
    }
    const captions = files.filter((file) => CAPTIONS.test(file.name))
    const pictures = files.filter((file) => PICTURES.test(file.name))
    const others = files.filter((file) => !captions.includes(file) && !pictures.includes(file))
    const opened = lecture.slides.find((slide) => slide.id === slideId)
    const [picture] = pictures
    if (picture && pictures.length === 1 && opened?.steps.length === 1) void acts.replacePicture(opened, 0, picture)
    else if (picture)
      toast(
        say('Open a slide to replace its picture. A new version of the whole deck is dropped as a PDF or a presentation file.'),
      )
    if (captions.length > 1) toast(say('One caption file at a time, please: the first one was taken.'))
    if (captions[0]) setCaptions(captions[0])
    if (others.length > 0) setSounds(others)
  }
  const rows = chosenRows(data.rows, filter, search)
  const zone = useDropzone({ noClick: true, noKeyboard: true, onDrop: bring, disabled: !mayChange })
  usePastedFiles((files) => mayChange && bring(files))
  const scale = scaleFor(data.times, width)
  const choose = (slideId: string) => {
    setFilter('all')
    setSearch('')
    // after the rows that were left out are back
    requestAnimationFrame(() => rowsHandle.current?.scrollTo(slideId))
  }
  return (
    <div {...zone.getRootProps()} className="flex min-h-dvh flex-col">
      <TopBar
        place={placeOf(lecture, slideId)}
        lecture={lecture}
        action={<SheetAction lecture={lecture} data={data} mayChange={mayChange} published={published} />}
      />
      <main className="flex grow flex-col">
        {mayChange && <input {...zone.getInputProps()} aria-label={say('Sound or caption files')} />}
        <SheetHead
          lecture={lecture}
          mayChange={mayChange}
          data={data}
          filter={filter}
          search={search}
          onFilter={setFilter}
          onSearch={setSearch}
          onChoose={choose}
          onFiles={zone.open}
        />
        <Incoming lectureId={lecture.id} />
        <Ruler measure={measure} scale={scale} />
        {rows.length === 0 ? (
          <p className="p-10 text-center font-read text-xl">
            {lecture.slides.length === 0
              ? say('All slides were deleted. Undo with Ctrl or ⌘ + Z, or start a new lecture from the shelf.')
              : search.trim() !== ''
                ? say('No title or script holds “{words}”.', { words: search.trim() })
                : say('No slide is like this any more.')}
          </p>
        ) : (
          <Rows
            lecture={lecture}
            rows={rows}
            scale={scale}
            mayChange={mayChange}
            sortable={mayChange && rows.length === lecture.slides.length}
            handle={rowsHandle}
          />
        )}
      </main>
      <Transport lecture={lecture} />
      <Suspense>
        {captions && (
          <AttachDialog
            lecture={lecture}
            file={captions}
            slideId={slideId}
            onAttach={(wanted) => attach(captions, wanted)}
            onClose={() => setCaptions(null)}
          />
        )}
        {newDeck.replaced && (
          <ReplaceDeck
            key={newDeck.replaced.id}
            lecture={lecture}
            id={newDeck.replaced.id}
            replaced={newDeck.replaced.found}
            only={newDeck.replaced.only}
            onClose={() => newDeck.leave()}
          />
        )}
        {sounds.length > 0 && <BringSounds lecture={lecture} files={sounds} slideId={slideId} onClose={() => setSounds([])} />}
      </Suspense>
    </div>
  )
}

export function Sheet() {
  const { id } = useParams()
  const { data: lecture, error, isLoading } = api.useLectureQuery(id!)
  if (isLoading) return <Loading what={say('the lecture')} />
  if (!lecture) return <NotFoundPage sentence={sentenceOf(error)} />
  return <Loaded lecture={lecture} />
}
