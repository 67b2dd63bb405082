/** How the teacher's picture is shown: where, how large, in which shape; for the whole lecture, and one slide. */
import type { Lecture } from '#core/model/lecture.ts'
import {
  CORNER_WORDS,
  LATE_MS,
  type SmallPicture,
  type SmallPictureException,
  type SmallPictureSize,
} from '#core/model/moving/small-picture.ts'
import type { Slide } from '#core/model/slide.ts'
import { type Message, message, say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { NumberField } from '#web/components/fields/number-field.tsx'
import { Dialog } from '#web/components/overlay/dialog.tsx'
import { editOrTell } from '#web/data/history.ts'
import { useAppDispatch } from '#web/data/store.ts'

const SHOWN: Record<SmallPicture['shown'], Message> = {
  everywhere: message('on every slide'),
  'first-and-last': message('on the first and the last slide'),
  nowhere: message('on no slide'),
}
const SIZES: Record<SmallPictureSize, Message> = {
  small: message('small'),
  medium: message('medium'),
  large: message('large'),
}
const EDGES: Record<SmallPicture['edge'], Message> = { round: message('round'), square: message('square') }

function Choice<T extends string>({
  label,
  value,
  words,
  onChange,
}: {
  label: string
  value: T
  words: Partial<Record<T, Message>>
  onChange: (value: T) => void
}) {
  return (
    <label className="grid gap-0.5 text-sm">
      {label}
      <select
        className="select select-sm w-52 border-edge bg-base-100"
        value={value}
        onChange={({ target }) => onChange(target.value as T)}
      >
        {Object.entries(words).map(([id, said]) => (
          <option key={id} value={id}>
            {say(said as Message)}
          </option>
        ))}
      </select>
    </label>
  )
}

/** What a slide has of its own; `lecture` follows. */
const ON_SLIDE = {
  lecture: message('as in the whole lecture'),
  shown: message('shown'),
  hidden: message('not shown'),
}

function OnSlide({ lecture, slide }: { lecture: Lecture; slide: Slide }) {
  const dispatch = useAppDispatch()
  const own = slide.smallPicture ?? {}
  const number = lecture.slides.indexOf(slide) + 1
  const set = (change: { [K in keyof SmallPictureException]: SmallPictureException[K] | undefined }) => {
    const all = Object.fromEntries(Object.entries({ ...own, ...change }).filter(([, value]) => value !== undefined))
    const smallPicture = Object.keys(all).length > 0 ? (all as SmallPictureException) : null
    void dispatch(
      editOrTell({
        lectureId: lecture.id,
        label: say('small picture on slide {number}', { number }),
        forth: [{ kind: 'slide', id: slide.id, change: { smallPicture } }],
        back: [{ kind: 'slide', id: slide.id, change: { smallPicture: slide.smallPicture } }],
      }),
    )
  }
  return (
    <fieldset className="mt-4 border-t border-base-300 pt-3">
      <legend className="sr-only">{say('On slide {number}', { number })}</legend>
      <p className="mb-2 font-medium">{say('On slide {number}', { number })}</p>
      <div className="grid grid-cols-2 gap-3 max-sm:grid-cols-1">
        <Choice
          label={say('Small picture')}
          value={own.isShown === undefined ? 'lecture' : own.isShown ? 'shown' : 'hidden'}
          words={ON_SLIDE}
          onChange={(value) => set({ isShown: value === 'lecture' ? undefined : value === 'shown' })}
        />
        <Choice
          label={say('Corner')}
          value={own.corner ?? 'lecture'}
          words={{ lecture: ON_SLIDE.lecture, ...CORNER_WORDS }}
          onChange={(value) => set({ corner: value === 'lecture' ? undefined : value })}
        />
        <Choice
          label={say('Size')}
          value={own.size ?? 'lecture'}
          words={{ lecture: ON_SLIDE.lecture, ...SIZES }}
          onChange={(value) => set({ size: value === 'lecture' ? undefined : value })}
        />
      </div>
    </fieldset>
  )
}

export function SmallPictureDialog({ lecture, slide, onClose }: { lecture: Lecture; slide: Slide; onClose: () => void }) {
  const dispatch = useAppDispatch()
  const { smallPicture } = lecture
  const set = (change: Partial<SmallPicture>) =>
    void dispatch(
      editOrTell({
        lectureId: lecture.id,
        label: say('small picture'),
        forth: [{ kind: 'lecture', change: { smallPicture: { ...smallPicture, ...change } } }],
        back: [{ kind: 'lecture', change: { smallPicture } }],
      }),
    )
  return (
    <Dialog
      title={say('The small picture')}
      width="w-[32rem]"
      onClose={onClose}
      beside={<Button onClick={onClose}>{say('Close')}</Button>}
    >
      <p className="mb-3 text-sm text-base-content/75">
        {say('It can be changed, or left out, at any time: nothing has to be recorded again.')}
      </p>
      <p className="mb-2 font-medium">{say('In the whole lecture')}</p>
      <div className="grid grid-cols-2 gap-3 max-sm:grid-cols-1">
        <Choice label={say('Small picture')} value={smallPicture.shown} words={SHOWN} onChange={(shown) => set({ shown })} />
        <Choice label={say('Corner')} value={smallPicture.corner} words={CORNER_WORDS} onChange={(corner) => set({ corner })} />
        <Choice label={say('Size')} value={smallPicture.size} words={SIZES} onChange={(size) => set({ size })} />
        <Choice label={say('Shape')} value={smallPicture.edge} words={EDGES} onChange={(edge) => set({ edge })} />
        <label className="flex h-8 items-center gap-2 text-sm">
          <input
            type="checkbox"
            className="checkbox checkbox-xs border-edge"
            checked={smallPicture.isMirrored}
            onChange={({ target }) => set({ isMirrored: target.checked })}
          />
          {say('as in a mirror')}
        </label>
        <NumberField
          label={say('The camera is late by')}
          unit={say('ms')}
          min={-LATE_MS.early}
          max={LATE_MS.most}
          step={10}
          value={smallPicture.lateMs}
          onChange={(lateMs) => set({ lateMs })}
        />
        <p className="text-sm text-base-content/75 max-sm:col-span-1 sm:col-span-2">
          {say('Where lips come after the voice, raise it until a clap is seen when it is heard.')}
        </p>
      </div>
      <OnSlide lecture={lecture} slide={slide} />
    </Dialog>
  )
}
