/** Where presentation file and PDF differ: their pictures side by side, to choose from. */
import type { Lecture } from '#core/model/lecture.ts'
import type { Slide, Step } from '#core/model/slide.ts'
import { thumbnailUrl } from '#web/data/api.ts'
import { editOrTell } from '#web/data/history.ts'
import { useAppDispatch } from '#web/data/store.ts'

function Choice({ step, name, children }: { step: Step; name: string; children: React.ReactNode }) {
  return (
    <li className="grid w-56 content-start gap-1.5 text-sm">
      <img
        src={thumbnailUrl(step.thumbnail)}
        alt={name}
        width={224}
        height={126}
        className="h-[126px] w-56 border border-base-300 bg-white object-contain"
      />
      {children}
    </li>
  )
}

export function OfferedPages({ lecture, slide }: { lecture: Lecture; slide: Slide }) {
  const dispatch = useAppDispatch()
  // once it is said that all is well there is nothing to choose any more
  if (slide.offered.length === 0 || slide.warnings.length === 0) return null
  const number = lecture.slides.indexOf(slide) + 1
  const settled = { kind: 'slide' as const, id: slide.id, change: { warnings: [] } }
  const open = { kind: 'slide' as const, id: slide.id, change: { warnings: slide.warnings } }
  const shows = (steps: Step[]) => ({
    kind: 'steps' as const,
    slides: [{ id: slide.id, steps: steps.map((step) => step.id), deleted: false }],
  })
  const take = (step: Step) =>
    dispatch(
      editOrTell({
        lectureId: lecture.id,
        label: `picture of slide ${number}`,
        // further pictures that were joined since stay
        forth: [shows([step, ...slide.steps.slice(1)]), settled],
        back: [shows(slide.steps), open],
      }),
    )
  const keep = () =>
    dispatch(editOrTell({ lectureId: lecture.id, label: `choice for slide ${number}`, forth: [settled], back: [open] }))
  return (
    <section aria-label="Which picture is right?" className="mb-4 border-b border-base-300 pb-4">
      <h3 className="font-medium">Which picture is right?</h3>
      <p className="mb-2 text-sm text-base-content/75">{slide.warnings.join(' ')}</p>
      <ul className="flex flex-wrap gap-4">
        <Choice step={slide.steps[0]!} name="Shown now">
          <button type="button" className="btn btn-sm border-edge" onClick={() => void keep()}>
            Keep this one
          </button>
        </Choice>
        {slide.offered.map((step, i) => (
          <Choice key={step.id} step={step} name={`Offered picture ${i + 1}`}>
            <button type="button" className="btn btn-sm border-edge" onClick={() => void take(step)}>
              Take this one
            </button>
          </Choice>
        ))}
      </ul>
    </section>
  )
}
