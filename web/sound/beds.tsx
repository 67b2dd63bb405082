/** Music and room sound under slides: which slides, how loud, how it comes in, goes out and gives way. */

import { Music, Trash2 } from 'lucide-react'
import { useId } from 'react'
import { useDropzone } from 'react-dropzone'
import { toast } from 'sonner'
import type { Bed, BedSettings } from '#core/model/bed.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { NumberField } from '#web/components/fields/number-field.tsx'
import { clock, decibels } from '#web/components/format.ts'
import { PlayButton } from '#web/components/play-button.tsx'
import { api, sentenceOf, soundUrl } from '#web/data/api.ts'
import { editOrTell, undo } from '#web/data/history.ts'
import { isActive } from '#web/data/job-state.ts'
import { useAppDispatch } from '#web/data/store.ts'
import { useJobEnd } from '#web/data/use-job-end.ts'
import { JobProgress } from '#web/lecture-ui/job-progress.tsx'

/** Words for how loud a bed is beside the voice. */
const loudnessWords = (db: number) =>
  db <= -24
    ? say('hardly heard')
    : db <= -14
      ? say('in the background')
      : db <= -4
        ? say('clearly heard')
        : say('as loud as the voice')

function SlideChoice({
  lecture,
  label,
  value,
  onChange,
}: {
  lecture: Lecture
  label: string
  value: string
  onChange: (id: string) => void
}) {
  return (
    <label className="grid gap-0.5 text-sm">
      {label}
      <select
        className="select select-sm w-48 border-edge bg-base-100"
        value={value}
        onChange={({ target }) => onChange(target.value)}
      >
        {lecture.slides.map((slide, i) => (
          <option key={slide.id} value={slide.id}>
            {i + 1}. {slide.title || say('Without a title')}
          </option>
        ))}
      </select>
    </label>
  )
}

function Volume({ bed, onChange }: { bed: Bed; onChange: (decibels: number) => void }) {
  const id = useId()
  const keep = ({ currentTarget }: { currentTarget: HTMLInputElement }) => {
    if (Number(currentTarget.value) !== bed.volumeDb) onChange(Number(currentTarget.value))
  }
  return (
    <div className="grid gap-0.5 text-sm">
      <label htmlFor={id}>
        {say('Loudness: {decibels} beside the voice, {words}', {
          decibels: decibels(bed.volumeDb),
          words: loudnessWords(bed.volumeDb),
        })}
      </label>
      <input
        id={id}
        key={bed.volumeDb}
        type="range"
        className="range range-xs range-primary w-64"
        min={-36}
        max={0}
        step={1}
        defaultValue={bed.volumeDb}
        onPointerUp={keep}
        onKeyUp={keep}
      />
    </div>
  )
}

function BedRow({ lecture, bed }: { lecture: Lecture; bed: Bed }) {
  const dispatch = useAppDispatch()
  const set = (label: string, change: Partial<BedSettings>) => {
    const before = Object.fromEntries(
      Object.keys(change).map((key) => [key, bed[key as keyof BedSettings]]),
    ) as Partial<BedSettings>
    void dispatch(
      editOrTell({
        lectureId: lecture.id,
        label: say('{label} of “{name}”', { label, name: bed.name }),
        forth: [{ kind: 'bed', id: bed.id, change }],
        back: [{ kind: 'bed', id: bed.id, change: before }],
      }),
    )
  }
  const remove = async () => {
    const deletion = (deleted: boolean) => [{ kind: 'bed-deleted' as const, id: bed.id, deleted }]
    await dispatch(
      editOrTell({
        lectureId: lecture.id,
        label: say('taking “{name}” away', { name: bed.name }),
        forth: deletion(true),
        back: deletion(false),
      }),
    )
    toast(say('“{name}” was taken away.', { name: bed.name }), {
      action: { label: say('Undo'), onClick: () => void dispatch(undo()) },
    })
  }
  return (
    <li className="border-b border-base-300 py-3">
      <p className="flex items-center gap-2">
        <PlayButton url={soundUrl(bed.sound)} label={bed.name} />
        <strong>{bed.name}</strong>
        <span className="text-sm text-base-content/75">{clock(toSeconds(bed.samples))}</span>
        <Button
          kind="ghost"
          square
          className="ms-auto"
          aria-label={say('Take {name} away', { name: bed.name })}
          onClick={() => void remove()}
        >
          <Trash2 size={16} aria-hidden />
        </Button>
      </p>
      <div className="mt-2 flex flex-wrap items-end gap-x-5 gap-y-2 ps-10">
        <SlideChoice
          lecture={lecture}
          label={say('From slide')}
          value={bed.fromSlideId}
          onChange={(fromSlideId) => set(say('first slide'), { fromSlideId })}
        />
        <SlideChoice
          lecture={lecture}
          label={say('to slide')}
          value={bed.toSlideId}
          onChange={(toSlideId) => set(say('last slide'), { toSlideId })}
        />
        <Volume bed={bed} onChange={(volumeDb) => set(say('loudness'), { volumeDb })} />
        <NumberField
          label={say('Fade in over')}
          unit={say('s')}
          min={0}
          max={20}
          step={0.5}
          value={bed.fadeInSeconds}
          onChange={(fadeInSeconds) => set(say('fade-in'), { fadeInSeconds })}
        />
        <NumberField
          label={say('Fade out over')}
          unit={say('s')}
          min={0}
          max={20}
          step={0.5}
          value={bed.fadeOutSeconds}
          onChange={(fadeOutSeconds) => set(say('fade-out'), { fadeOutSeconds })}
        />
        <label className="flex h-8 items-center gap-2 text-sm">
          <input
            type="checkbox"
            className="checkbox checkbox-xs m-1 border-edge"
            checked={bed.duckDb < 0}
            onChange={() => set(say('giving way'), { duckDb: bed.duckDb < 0 ? 0 : -14 })}
          />
          {say('gives way to the voice')}
        </label>
        <label className="flex h-8 items-center gap-2 text-sm">
          <input
            type="checkbox"
            className="checkbox checkbox-xs m-1 border-edge"
            checked={bed.loop}
            onChange={() => set(say('looping'), { loop: !bed.loop })}
          />
          {say('begins again until the last slide')}
        </label>
      </div>
    </li>
  )
}

export function Beds({ lecture }: { lecture: Lecture }) {
  const [add] = api.useAddBedMutation()
  const { data: jobs = [] } = api.useJobsQuery()
  const whenEnded = useJobEnd()
  const [first] = lecture.slides
  const coming = jobs.filter((job) => job.kind === 'bed' && job.lectureId === lecture.id && isActive(job))
  const zone = useDropzone({
    noKeyboard: true,
    noClick: true,
    multiple: false,
    onDrop: async ([file]) => {
      if (!file || !first) return
      try {
        whenEnded(await add({ id: lecture.id, file, fromSlideId: first.id, toSlideId: first.id }).unwrap(), () => {})
      } catch (error) {
        toast.error(sentenceOf(error))
      }
    },
  })
  return (
    <section
      aria-labelledby="beds-title"
      {...zone.getRootProps({ role: 'region' })}
      className="mx-auto w-full max-w-6xl px-6 pb-8"
    >
      <input {...zone.getInputProps()} aria-label={say('Music or room sound')} />
      <h2 id="beds-title" className="flex items-center gap-2 font-read text-xl font-semibold">
        <Music size={18} aria-hidden /> {say('Background music')}
      </h2>
      <p className="text-base-content/80">
        {say('Music or room sound under slides. It goes down by itself while somebody speaks.')}
      </p>
      {coming.map((job) => (
        <JobProgress key={job.id} job={job} />
      ))}
      <ul className="mt-2 border-t border-base-300">
        {lecture.beds.map((bed) => (
          <BedRow key={bed.id} lecture={lecture} bed={bed} />
        ))}
      </ul>
      <Button className="mt-3" disabled={!first} onClick={zone.open}>
        {say('Add a bed from a sound file')}
      </Button>
    </section>
  )
}
