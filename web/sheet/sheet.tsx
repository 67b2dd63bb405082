/** The running sheet: one row a slide, all drawn to one seconds-per-pixel scale. */
import { closestCenter, DndContext, type DragEndEvent, KeyboardSensor, PointerSensor, useSensor, useSensors } from '@dnd-kit/core'
import { arrayMove, SortableContext, sortableKeyboardCoordinates, verticalListSortingStrategy } from '@dnd-kit/sortable'
import { Mic } from 'lucide-react'
import { useEffect, useMemo } from 'react'
import { useDropzone } from 'react-dropzone'
import { Link, useParams } from 'react-router'
import { toast } from 'sonner'
import { cuesOnLecture } from '#core/captions/place-cues.ts'
import { publishedTracks } from '#core/captions/published-tracks.ts'
import { checks } from '#core/edition/checks.ts'
import { keptTake, type Lecture } from '#core/lecture.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { schedule } from '#core/timing/schedule.ts'
import { useAttachCaptions } from '#web/captions/use-attach-captions.ts'
import { api, sentenceOf } from '#web/shared/api.ts'
import { editOrTell } from '#web/shared/edits/history.ts'
import { clock, plural } from '#web/shared/format.ts'
import { useAppDispatch } from '#web/shared/store.ts'
import { Loading } from '#web/shared/ui/loading.tsx'
import { Nowhere } from '#web/shared/ui/nowhere.tsx'
import { TopBar } from '#web/shared/ui/top-bar.tsx'
import { useWidth } from '#web/shared/use-width.ts'
import { Profile } from './profile.tsx'
import { prepareBench, Row } from './row.tsx'
import { Ruler, scaleFor } from './scale.tsx'

function Totals({ lecture, seconds, toDo }: { lecture: Lecture; seconds: number; toDo: number }) {
  const spoken = lecture.slides.filter((slide) => keptTake(slide)).length
  return (
    <div className="w-52 shrink-0">
      <p className="font-read text-3xl font-semibold">{clock(seconds, 0)}</p>
      <p className="text-sm text-base-content/75">
        {spoken} of {plural(lecture.slides.length, 'slide')} spoken
        <br />
        {toDo === 0 ? 'nothing left to do' : plural(toDo, 'thing to do', 'things to do')}
      </p>
    </div>
  )
}

/** What to do next: record what is missing, then publish. */
function NextAction({ lecture }: { lecture: Lecture }) {
  const silent = lecture.slides.find((slide) => !slide.hidden && !keptTake(slide))
  if (!silent) {
    return (
      <Link to={`/lectures/${lecture.id}/publish`} className="btn btn-sm btn-primary">
        Publish
      </Link>
    )
  }
  return (
    <Link to={`/lectures/${lecture.id}/booth?slide=${silent.id}`} className="btn btn-sm btn-primary">
      <Mic size={15} aria-hidden /> Record slide {lecture.slides.indexOf(silent) + 1}
    </Link>
  )
}

function Rows({ lecture }: { lecture: Lecture }) {
  const dispatch = useAppDispatch()
  const { slideId: openSlide } = useParams()
  const [measure, width] = useWidth()
  const plan = useMemo(() => schedule(lecture), [lecture])
  const found = useMemo(() => checks(lecture), [lecture])
  const cues = useMemo(() => {
    const track = publishedTracks(lecture)[0]
    return track ? cuesOnLecture(lecture, track.cues) : []
  }, [lecture])
  const scale = scaleFor(plan, width)
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 6 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  )
  const order = lecture.slides.map((slide) => slide.id)
  const drop = ({ active, over }: DragEndEvent) => {
    if (!over || active.id === over.id) return
    const next = arrayMove(order, order.indexOf(String(active.id)), order.indexOf(String(over.id)))
    void dispatch(
      editOrTell({
        lectureId: lecture.id,
        label: 'order of the slides',
        forth: [{ kind: 'order', order: next }],
        back: [{ kind: 'order', order }],
      }),
    )
  }
  useEffect(prepareBench, [])
  const scrollTo = (index: number) => document.getElementById(`slide-${index}`)?.scrollIntoView({ block: 'start' })
  return (
    <>
      <div className="flex items-center gap-6 border-b border-base-300 px-4 py-3">
        <Totals lecture={lecture} seconds={toSeconds(plan.lengthSamples)} toDo={found.length} />
        <Profile lecture={lecture} plan={plan} onChoose={scrollTo} />
      </div>
      <Ruler measure={measure} scale={scale} />
      <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={drop}>
        <SortableContext items={order} strategy={verticalListSortingStrategy}>
          <ol aria-label="Slides" className="grow">
            {lecture.slides.map((slide, i) => (
              <Row
                key={slide.id}
                lecture={lecture}
                slide={slide}
                index={i}
                scheduled={plan.slides.find((s) => s.slideId === slide.id) ?? null}
                cues={cues.filter((cue) => cue.slideId === slide.id)}
                checks={found.filter((check) => check.slideId === slide.id)}
                scale={scale}
                open={slide.id === openSlide}
              />
            ))}
          </ol>
        </SortableContext>
      </DndContext>
    </>
  )
}

export function Sheet() {
  const { id } = useParams()
  const { data: lecture, error, isLoading } = api.useLectureQuery(id!)
  const attach = useAttachCaptions(lecture)
  const zone = useDropzone({
    noClick: true,
    noKeyboard: true,
    onDrop: ([file, ...more]) => {
      if (!file) return
      if (more.length > 0) toast('One caption file at a time, please: the first one was taken.')
      void attach(file)
    },
  })
  if (isLoading) return <Loading what="the lecture" />
  if (!lecture) return <Nowhere sentence={sentenceOf(error)} />
  return (
    <div {...zone.getRootProps()} className="flex min-h-dvh flex-col">
      <input {...zone.getInputProps()} aria-label="Caption file" />
      <TopBar lecture={lecture} action={<NextAction lecture={lecture} />} />
      <main className="flex grow flex-col">
        {lecture.slides.length === 0 ? (
          <p className="p-10 text-center font-read text-xl">
            All slides were deleted. Undo with Ctrl or ⌘ + Z, or start a new lecture from the shelf.
          </p>
        ) : (
          <Rows lecture={lecture} />
        )}
      </main>
    </div>
  )
}
