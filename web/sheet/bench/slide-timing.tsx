/** Times of one slide where they differ from the lecture's. An empty field follows the lecture. */

import { keptTake } from '#core/model/kept-take.ts'
import type { Lecture } from '#core/model/lecture.ts'
import type { Slide } from '#core/model/slide.ts'
import type { TimingDefaults } from '#core/model/timing.ts'
import type { Transition } from '#core/model/transition.ts'
import { TRANSITION_WORDS } from '#core/model/transition.ts'
import { say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { NumberField } from '#web/components/fields/number-field.tsx'
import { editOrTell } from '#web/data/history.ts'
import { useAppDispatch } from '#web/data/store.ts'
import { TransitionChoice } from '#web/lecture-ui/transition-choice.tsx'

export function SlideTiming({ lecture, slide, number }: { lecture: Lecture; slide: Slide; number: number }) {
  const dispatch = useAppDispatch()
  const change = (label: string, values: { timing?: Partial<TimingDefaults>; transition?: Transition | null }) =>
    void dispatch(
      editOrTell({
        lectureId: lecture.id,
        label: say('{label} of slide {number}', { label, number }),
        forth: [{ kind: 'slide', id: slide.id, change: values }],
        back: [{ kind: 'slide', id: slide.id, change: { timing: slide.timing, transition: slide.transition } }],
      }),
    )
  const set = (label: string, values: Partial<TimingDefaults>) => change(label, { timing: { ...slide.timing, ...values } })
  const { timing } = lecture
  const own = Object.keys(slide.timing).length > 0 || slide.transition !== null
  const spoken = keptTake(slide) !== null
  return (
    <fieldset className="flex flex-wrap items-end gap-x-4 gap-y-2" aria-label={say('Times of slide {number}', { number })}>
      {spoken ? (
        <>
          <NumberField
            label={say('Rest before')}
            unit={say('s')}
            min={0}
            max={10}
            step={0.05}
            value={slide.timing.leadSeconds ?? null}
            placeholder={String(timing.leadSeconds)}
            onChange={(leadSeconds) => set(say('rest before the voice'), { leadSeconds })}
          />
          <NumberField
            label={say('Rest after')}
            unit={say('s')}
            min={0.2}
            max={10}
            step={0.05}
            value={slide.timing.tailSeconds ?? null}
            placeholder={String(timing.tailSeconds)}
            onChange={(tailSeconds) => set(say('rest after the voice'), { tailSeconds })}
          />
        </>
      ) : (
        <NumberField
          label={say('Stays in silence')}
          unit={say('s')}
          min={0.5}
          max={600}
          step={0.5}
          value={slide.timing.holdSeconds ?? null}
          placeholder={String(timing.holdSeconds)}
          onChange={(holdSeconds) => set(say('length'), { holdSeconds })}
        />
      )}
      {number > 1 && (
        <TransitionChoice
          value={slide.transition}
          follows={say('as the lecture: {transition}', { transition: TRANSITION_WORDS[lecture.transition.kind] })}
          onChange={(transition) => change(say('change'), { transition })}
        />
      )}
      {timing.paceSeconds !== null && (
        <label className="flex h-8 items-center gap-2 text-sm">
          <input
            type="checkbox"
            className="checkbox checkbox-xs border-edge"
            checked={slide.timing.paceSeconds === null}
            onChange={() => {
              const { paceSeconds, ...rest } = slide.timing
              change(say('pace'), { timing: paceSeconds === null ? rest : { ...slide.timing, paceSeconds: null } })
            }}
          />
          {say('as long as its sound, not {seconds} s', { seconds: timing.paceSeconds })}
        </label>
      )}
      {own && (
        <Button kind="ghost" onClick={() => change(say('times'), { timing: {}, transition: null })}>
          {say('Follow the lecture again')}
        </Button>
      )}
    </fieldset>
  )
}
