/** Where presentation file and PDF differ: their pictures side by side, to choose from. */

import type { Lecture } from '#core/model/lecture.ts'
import type { Slide, Step } from '#core/model/slide.ts'
import { say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
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
        label: say('picture of slide {number}', { number }),
        // further pictures that were joined since stay
        forth: [shows([step, ...slide.steps.slice(1)]), settled],
        back: [shows(slide.steps), open],
      }),
    )
  const keep = () =>
    dispatch(
      editOrTell({ lectureId: lecture.id, label: say('choice for slide {number}', { number }), forth: [settled], back: [open] }),
    )
  return (
    <section aria-label={say('Which picture is right?')} className="mb-4 border-b border-base-300 pb-4">
      <h2 className="font-medium">{say('Which picture is right?')}</h2>
      <p className="mb-2 text-sm text-base-content/75">{slide.warnings.map((warning) => say(warning)).join(' ')}</p>
      <ul className="flex flex-wrap gap-4">
        <Choice step={slide.steps[0]!} name={say('Shown now')}>
          <Button onClick={() => void keep()}>{say('Keep this one')}</Button>
        </Choice>
        {slide.offered.map((step, i) => (
          <Choice key={step.id} step={step} name={say('Offered picture {number}', { number: i + 1 })}>
            <Button onClick={() => void take(step)}>{say('Take this one')}</Button>
          </Choice>
        ))}
      </ul>
    </section>
  )
}
