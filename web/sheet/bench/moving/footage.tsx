/** What screen and camera recorded with the take that is kept: shown or left out, and what it shows for those who cannot see it. */
import { Camera, MonitorPlay, RotateCcw } from 'lucide-react'
import { Suspense, useState } from 'react'
import { toast } from 'sonner'
import { keptTake } from '#core/model/kept-take.ts'
import type { Lecture } from '#core/model/lecture.ts'
import type { Footage as FootageOfTake, TakeFootage } from '#core/model/moving/footage.ts'
import type { Slide } from '#core/model/slide.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { clock } from '#web/components/format.ts'
import { soon } from '#web/components/soon.ts'
import { sentenceOf } from '#web/data/api.ts'
import type { Command } from '#web/data/commands.ts'
import { sheetApi } from '#web/data/endpoints/sheet.ts'
import { editOrTell } from '#web/data/history.ts'
import { useAppDispatch } from '#web/data/store.ts'

const SmallPictureDialog = soon(
  async () => (await import('#web/lecture-ui/small-picture/small-picture-dialog.tsx')).SmallPictureDialog,
)

function State({ footage }: { footage: FootageOfTake }) {
  const [tryAgain] = sheetApi.useTryFootageMutation()
  if (footage.shown) return null
  if (!footage.problem) return <p className="text-sm text-base-content/75">{say('What was filmed is being made ready')}</p>
  return (
    <p role="alert" className="flex flex-wrap items-center gap-2 text-sm text-secondary">
      {say(footage.problem)}
      <Button
        kind="ghost"
        onClick={() =>
          tryAgain({ id: footage.id })
            .unwrap()
            .catch((error) => toast.error(sentenceOf(error)))
        }
      >
        <RotateCcw size={14} aria-hidden /> {say('Try it again')}
      </Button>
    </p>
  )
}

/** Kept when it is left. */
function Description({ footage, onChange }: { footage: FootageOfTake; onChange: (description: string) => void }) {
  return (
    <label className="grid gap-0.5 text-sm">
      <span>
        {say('What the demonstration shows')} <span className="text-base-content/75">{say('for those who cannot see it')}</span>
      </span>
      <textarea
        key={footage.description}
        className="textarea w-full border-edge bg-base-100 text-sm"
        rows={2}
        maxLength={2000}
        defaultValue={footage.description}
        onBlur={({ target }) => target.value !== footage.description && onChange(target.value)}
      />
    </label>
  )
}

function FootageRow({ lecture, slide, takeId, cuts }: { lecture: Lecture; slide: Slide; takeId: string; cuts: TakeFootage[] }) {
  const dispatch = useAppDispatch()
  const [changing, setChanging] = useState(false)
  const { footage, isLeftOut } = cuts[0]!
  const isScreen = footage.kind === 'screen'
  const name = isScreen ? say('Demonstration') : say('Small picture')
  const edit = (label: string, forth: Command, back: Command) =>
    void dispatch(editOrTell({ lectureId: lecture.id, label, forth: [forth], back: [back] }))
  const show = (isShown: boolean): Command => ({ kind: 'footage-shown', takeId, footageId: footage.id, isShown })
  const describe = (description: string): Command => ({ kind: 'footage', id: footage.id, description })
  return (
    <li className="grid gap-1.5 border-t border-base-300 py-2 first:border-t-0">
      <p className="flex flex-wrap items-center gap-x-3 gap-y-1">
        {isScreen ? <MonitorPlay size={16} aria-hidden /> : <Camera size={16} aria-hidden />}
        <strong>{name}</strong>
        <span className="text-sm text-base-content/75">
          {cuts
            .map(({ start, end }) =>
              say('{from} to {to} of the take', { from: clock(toSeconds(start)), to: clock(toSeconds(end)) }),
            )
            .join(', ')}
        </span>
        <label className="flex h-8 items-center gap-2 text-sm">
          <input
            type="checkbox"
            className="checkbox checkbox-xs border-edge"
            checked={!isLeftOut}
            onChange={({ target }) => edit(name, show(target.checked), show(!target.checked))}
          />
          {say('shown with this take')}
        </label>
        {!isScreen && (
          <button type="button" className="link text-sm" onClick={() => setChanging(true)}>
            {say('Corner, size and shape')}
          </button>
        )}
      </p>
      <State footage={footage} />
      {isScreen && (
        <Description
          footage={footage}
          onChange={(text) => edit(say('description of the demonstration'), describe(text), describe(footage.description))}
        />
      )}
      <Suspense>{changing && <SmallPictureDialog lecture={lecture} slide={slide} onClose={() => setChanging(false)} />}</Suspense>
    </li>
  )
}

/** Nothing where nothing was filmed. */
export function Footage({ lecture, slide, number }: { lecture: Lecture; slide: Slide; number: number }) {
  const take = keptTake(slide)
  if (!take || take.footage.length === 0) return null
  const byId = new Map<string, TakeFootage[]>()
  for (const cut of take.footage) byId.set(cut.footageId, [...(byId.get(cut.footageId) ?? []), cut])
  return (
    <section aria-label={say('Filmed with slide {number}', { number })} className="mt-4 border-t border-base-300 pt-2">
      <ul>
        {[...byId].map(([id, cuts]) => (
          <FootageRow key={id} lecture={lecture} slide={slide} takeId={take.id} cuts={cuts} />
        ))}
      </ul>
    </section>
  )
}
