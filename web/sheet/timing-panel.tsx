/** How long slides last, for the whole lecture. */
import type { Lecture } from '#core/model/lecture.ts'
import type { TimingDefaults } from '#core/model/timing.ts'
import { WORDS_A_MINUTE } from '#core/script/pace.ts'
import { wordsThatFit } from '#core/timing/profile.ts'
import { LEAD_MOST_S } from '#core/timing/schedule.ts'
import { plural } from '#web/components/format.ts'
import { NumberField } from '#web/components/number-field.tsx'
import { editOrTell } from '#web/data/history.ts'
import { useAppDispatch } from '#web/data/store.ts'
import { TransitionChoice } from '#web/lecture-ui/transition-choice.tsx'

const USUAL_PACE_S = 20

export function TimingPanel({ lecture }: { lecture: Lecture }) {
  const dispatch = useAppDispatch()
  const { timing, transition } = lecture
  const change = (label: string, values: Partial<Pick<Lecture, 'timing' | 'transition'>>) => {
    const back = { timing, transition }
    void dispatch(
      editOrTell({
        lectureId: lecture.id,
        label,
        forth: [{ kind: 'lecture', change: values }],
        back: [{ kind: 'lecture', change: back }],
      }),
    )
  }
  const set = (label: string, values: Partial<TimingDefaults>) => change(label, { timing: { ...timing, ...values } })
  const own = lecture.slides.filter((slide) => Object.keys(slide.timing).length > 0 || slide.transition)
  const clearAll = () =>
    void dispatch(
      editOrTell({
        lectureId: lecture.id,
        label: 'times of single slides',
        forth: own.map(({ id }) => ({ kind: 'slide', id, change: { timing: {}, transition: null } })),
        back: own.map(({ id, timing, transition }) => ({ kind: 'slide', id, change: { timing, transition } })),
      }),
    )
  const paced = timing.paceSeconds !== null
  return (
    <section aria-label="Times of the whole lecture" className="border-b border-base-300 bg-base-200/60 px-4 py-3">
      <div className="flex flex-wrap items-end gap-x-6 gap-y-3">
        <NumberField
          label="Rest before the voice"
          unit="s"
          min={0}
          max={10}
          step={0.05}
          value={timing.leadSeconds}
          onChange={(leadSeconds) => set('rest before the voice', { leadSeconds })}
        />
        <NumberField
          label="Rest after it"
          unit="s"
          min={0.2}
          max={10}
          step={0.05}
          value={timing.tailSeconds}
          onChange={(tailSeconds) => set('rest after the voice', { tailSeconds })}
        />
        <NumberField
          label="A silent slide stays"
          unit="s"
          min={0.5}
          max={600}
          step={0.5}
          value={timing.holdSeconds}
          onChange={(holdSeconds) => set('length of silent slides', { holdSeconds })}
        />
        <NumberField
          label="No slide is shorter than"
          unit="s"
          min={0}
          max={60}
          step={0.5}
          value={timing.minimumSeconds}
          onChange={(minimumSeconds) => set('shortest slide', { minimumSeconds })}
        />
        <TransitionChoice value={transition} onChange={(next) => next && change('changes of slides', { transition: next })} />
        <div className="flex items-end gap-3 border-l border-base-300 pl-6">
          <label className="flex h-8 items-center gap-2 text-sm">
            <input
              type="checkbox"
              className="checkbox checkbox-sm border-edge"
              checked={paced}
              onChange={() => set('fixed pace', { paceSeconds: paced ? null : USUAL_PACE_S })}
            />
            Fixed pace
          </label>
          {timing.paceSeconds !== null && (
            <NumberField
              label="Every slide"
              unit="s"
              min={2}
              max={600}
              step={1}
              value={timing.paceSeconds}
              onChange={(paceSeconds) => set('fixed pace', { paceSeconds })}
            />
          )}
        </div>
      </div>
      <p className="mt-2 text-sm text-base-content/75">
        {timing.paceSeconds !== null
          ? `Every slide stays exactly ${timing.paceSeconds} s. About ${wordsThatFit(timing.paceSeconds, WORDS_A_MINUTE)} words fit on one; speech is never cut.`
          : timing.leadSeconds > LEAD_MOST_S
            ? 'More than half a second before the voice feels like a fault to many.'
            : 'Every slide lasts as long as its sound and these rests. A change of slide takes its time out of the rests, never out of the voice.'}
        {own.length > 0 && (
          <>
            {' '}
            {plural(own.length, 'slide has', 'slides have')} times of {own.length === 1 ? 'its' : 'their'} own.{' '}
            <button type="button" className="link" onClick={clearAll}>
              Let all follow the lecture
            </button>
          </>
        )}
      </p>
    </section>
  )
}
