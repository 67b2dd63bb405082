/** How long slides last, for the whole lecture. */

import type { Lecture } from '#core/model/lecture.ts'
import type { TimingDefaults } from '#core/model/timing.ts'
import { WORDS_A_MINUTE } from '#core/script/pace.ts'
import { wordsThatFit } from '#core/timing/profile.ts'
import { LEAD_MOST_S } from '#core/timing/schedule.ts'
import { say } from '#core/words/say.ts'
import { NumberField } from '#web/components/fields/number-field.tsx'
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
        label: say('times of single slides'),
        forth: own.map(({ id }) => ({ kind: 'slide', id, change: { timing: {}, transition: null } })),
        back: own.map(({ id, timing, transition }) => ({ kind: 'slide', id, change: { timing, transition } })),
      }),
    )
  const paced = timing.paceSeconds !== null
  return (
    <section aria-label={say('Times of the whole lecture')} className="border-b border-base-300 bg-base-200/60 px-4 py-3">
      <div className="flex flex-wrap items-end gap-x-6 gap-y-3">
        <NumberField
          label={say('Rest before the voice')}
          unit={say('s')}
          min={0}
          max={10}
          step={0.05}
          value={timing.leadSeconds}
          onChange={(leadSeconds) => set(say('rest before the voice'), { leadSeconds })}
        />
        <NumberField
          label={say('Rest after it')}
          unit={say('s')}
          min={0.2}
          max={10}
          step={0.05}
          value={timing.tailSeconds}
          onChange={(tailSeconds) => set(say('rest after the voice'), { tailSeconds })}
        />
        <NumberField
          label={say('A silent slide stays')}
          unit={say('s')}
          min={0.5}
          max={600}
          step={0.5}
          value={timing.holdSeconds}
          onChange={(holdSeconds) => set(say('length of silent slides'), { holdSeconds })}
        />
        <NumberField
          label={say('No slide is shorter than')}
          unit={say('s')}
          min={0}
          max={60}
          step={0.5}
          value={timing.minimumSeconds}
          onChange={(minimumSeconds) => set(say('shortest slide'), { minimumSeconds })}
        />
        <TransitionChoice
          value={transition}
          onChange={(next) => next && change(say('changes of slides'), { transition: next })}
        />
        <div className="flex items-end gap-3 border-s border-base-300 ps-6">
          <label className="flex h-8 items-center gap-2 text-sm">
            <input
              type="checkbox"
              className="checkbox checkbox-sm border-edge"
              checked={paced}
              onChange={() => set(say('fixed pace'), { paceSeconds: paced ? null : USUAL_PACE_S })}
            />
            {say('Fixed pace')}
          </label>
          {timing.paceSeconds !== null && (
            <NumberField
              label={say('Every slide')}
              unit={say('s')}
              min={2}
              max={600}
              step={1}
              value={timing.paceSeconds}
              onChange={(paceSeconds) => set(say('fixed pace'), { paceSeconds })}
            />
          )}
        </div>
      </div>
      <p className="mt-2 text-sm text-base-content/75">
        {timing.paceSeconds !== null
          ? say('Every slide stays exactly {seconds} s. About {words} words fit on one; speech is never cut.', {
              seconds: timing.paceSeconds,
              words: wordsThatFit(timing.paceSeconds, WORDS_A_MINUTE),
            })
          : timing.leadSeconds > LEAD_MOST_S
            ? say('More than half a second before the voice feels like a fault to many.')
            : say(
                'Every slide lasts as long as its sound and these rests. A change of slide takes its time out of the rests, never out of the voice.',
              )}
        {own.length > 0 && (
          <>
            {' '}
            {say('{own, plural, one {# slide has times of its own.} other {# slides have times of their own.}}', {
              own: own.length,
            })}{' '}
            <button type="button" className="link" onClick={clearAll}>
              {say('Let all follow the lecture')}
            </button>
          </>
        )}
      </p>
    </section>
  )
}
