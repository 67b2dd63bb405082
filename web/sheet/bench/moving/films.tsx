/** The films of a slide: when they are shown, how they sound, where they stand. */
import { Clapperboard, RotateCcw, Trash2 } from 'lucide-react'
import { toast } from 'sonner'
import type { Lecture } from '#core/model/lecture.ts'
import { type Film, type FilmSettings, type FilmVoice, filmSeconds, isRunningOn, VOICES } from '#core/model/moving/film.ts'
import type { Slide, Step } from '#core/model/slide.ts'
import { say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { NumberField } from '#web/components/fields/number-field.tsx'
import { clock } from '#web/components/format.ts'
import { api } from '#web/data/api.ts'
import { editOrTell, undo } from '#web/data/history.ts'
import { isActive } from '#web/data/job-state.ts'
import { useAppDispatch } from '#web/data/store.ts'
import { FilmCaptions } from './film-captions.tsx'
import { FilmPlacing } from './film-placing.tsx'
import { useFilmActs } from './use-film-acts.ts'

type Set = (label: string, change: Partial<FilmSettings>) => void

function Choice({ label, checked, onChange }: { label: string; checked: boolean; onChange: (checked: boolean) => void }) {
  return (
    <label className="flex h-8 items-center gap-2 text-sm">
      <input
        type="checkbox"
        className="checkbox checkbox-xs border-edge"
        checked={checked}
        onChange={({ target }) => onChange(target.checked)}
      />
      {label}
    </label>
  )
}

function Times({ film, isFirst, set }: { film: Film; isFirst: boolean; set: Set }) {
  const seconds = Math.round(filmSeconds(film.shown!) * 100) / 100
  const voices = (Object.keys(VOICES) as FilmVoice[]).filter((voice) => isFirst || voice !== 'after')
  return (
    <>
      <label className="grid gap-0.5 text-sm">
        {say('The voice')}
        <select
          className="select select-sm w-40 border-edge bg-base-100"
          value={film.voice}
          onChange={({ target }) => set(say('voice'), { voice: target.value as FilmVoice })}
        >
          {voices.map((voice) => (
            <option key={voice} value={voice}>
              {say(VOICES[voice])}
            </option>
          ))}
        </select>
      </label>
      <NumberField
        label={say('From')}
        unit={say('s')}
        min={0}
        max={seconds}
        step={0.1}
        value={film.fromSeconds}
        onChange={(fromSeconds) => set(say('beginning'), { fromSeconds })}
      />
      <NumberField
        label={say('to')}
        unit={say('s')}
        min={0.1}
        max={seconds}
        step={0.1}
        value={film.toSeconds ?? seconds}
        onChange={(to) => set(say('end'), { toSeconds: to >= seconds ? null : to })}
      />
      <label className="grid gap-0.5 text-sm">
        {say('The slide')}
        <select
          className="select select-sm w-44 border-edge bg-base-100"
          value={film.waits ? 'waits' : isRunningOn(film) ? 'runs-on' : 'ends'}
          onChange={({ target: { value } }) => set(say('length'), { waits: value === 'waits', runsOn: value === 'runs-on' })}
        >
          <option value="waits">{say('stays for it')}</option>
          <option value="ends">{say('does not stay for it')}</option>
          {!film.loops && <option value="runs-on">{say('lets it run on')}</option>}
        </select>
      </label>
      <Choice label={say('again and again')} checked={film.loops} onChange={(loops) => set(say('repeating'), { loops })} />
      {!film.loops && !isRunningOn(film) && (
        <Choice
          label={say('its last picture stays')}
          checked={film.afterwards === 'last-picture'}
          onChange={(stays) => set(say('end'), { afterwards: stays ? 'last-picture' : 'slide' })}
        />
      )}
    </>
  )
}

function Sound({ film, set }: { film: Film; set: Set }) {
  if (film.shown!.sound === null)
    return <p className="flex h-8 items-center text-sm text-base-content/75">{say('It has no sound.')}</p>
  return (
    <>
      <Choice
        label={say('with its sound')}
        checked={!film.isMuted}
        onChange={(heard) => set(say('sound'), { isMuted: !heard })}
      />
      {!film.isMuted && (
        <>
          <Choice
            label={say('somebody speaks in it')}
            checked={film.isSpoken}
            onChange={(isSpoken) => set(say('speech'), { isSpoken })}
          />
          <NumberField
            label={say('Loudness beside the voice')}
            unit="LU"
            min={-40}
            max={6}
            step={1}
            value={film.volumeDb}
            onChange={(volumeDb) => set(say('loudness'), { volumeDb })}
          />
          <NumberField
            label={say('Quieter under the voice by')}
            unit="dB"
            min={0}
            max={40}
            step={1}
            value={-film.duckDb}
            onChange={(by) => set(say('giving way'), { duckDb: by === 0 ? 0 : -by })}
          />
        </>
      )}
    </>
  )
}

/** Kept when it is left. */
function Description({ film, set }: { film: Film; set: Set }) {
  return (
    <label className="grid gap-0.5 text-sm">
      <span>
        {say('What the film shows')} <span className="text-base-content/75">{say('for those who cannot see it')}</span>
      </span>
      <textarea
        key={film.description}
        className="textarea w-full border-edge bg-base-100 text-sm"
        rows={2}
        maxLength={2000}
        defaultValue={film.description}
        onBlur={({ target }) => target.value !== film.description && set(say('description'), { description: target.value })}
      />
    </label>
  )
}

function FilmRow({
  lecture,
  film,
  step,
  isFirst,
  number,
}: {
  lecture: Lecture
  film: Film
  step: Step
  isFirst: boolean
  number: number
}) {
  const dispatch = useAppDispatch()
  const acts = useFilmActs()
  const { isComing } = api.useJobsQuery(undefined, {
    selectFromResult: ({ data }) => ({
      isComing: data?.some((job) => job.kind === 'film' && job.lectureId === lecture.id && isActive(job)) ?? true,
    }),
  })
  const set: Set = (label, change) => {
    const before = Object.fromEntries(
      Object.keys(change).map((key) => [key, film[key as keyof FilmSettings]]),
    ) as Partial<FilmSettings>
    void dispatch(
      editOrTell({
        lectureId: lecture.id,
        label: say('{label} of “{name}”', { label, name: film.name }),
        forth: [{ kind: 'film', id: film.id, change }],
        back: [{ kind: 'film', id: film.id, change: before }],
      }),
    )
  }
  const remove = async () => {
    const deletion = (deleted: boolean) => [{ kind: 'film-deleted' as const, id: film.id, deleted }]
    await dispatch(
      editOrTell({
        lectureId: lecture.id,
        label: say('taking “{name}” away', { name: film.name }),
        forth: deletion(true),
        back: deletion(false),
      }),
    )
    toast(say('“{name}” was taken away.', { name: film.name }), {
      action: { label: say('Undo'), onClick: () => void dispatch(undo()) },
    })
  }
  return (
    <li className="border-t border-base-300 py-2 first:border-t-0">
      <p className="flex items-center gap-2">
        <Clapperboard size={16} aria-hidden className="shrink-0" />
        <strong className="truncate">{film.name}</strong>
        {film.shown && (
          <span className="text-sm whitespace-nowrap text-base-content/75">
            {say('{width} × {height}, {length}', {
              width: film.shown.width,
              height: film.shown.height,
              length: clock(filmSeconds(film.shown)),
            })}
            {!isFirst && ` · ${say('with picture {number}', { number })}`}
          </span>
        )}
        <Button
          kind="ghost"
          square
          className="ms-auto"
          aria-label={say('Take {name} away', { name: film.name })}
          onClick={() => void remove()}
        >
          <Trash2 size={16} aria-hidden />
        </Button>
      </p>
      {!film.shown && (film.problem || !isComing) && (
        <p role="alert" className="flex flex-wrap items-center gap-2 text-sm text-secondary">
          {film.problem ? say(film.problem) : say('It was not made ready.')}
          <Button kind="ghost" onClick={() => void acts.tryAgain(film)}>
            <RotateCcw size={14} aria-hidden /> {say('Try it again')}
          </Button>
        </p>
      )}
      {film.shown ? (
        <div className="mt-1 grid gap-2 ps-6">
          {film.shown.notes.map((note) => (
            <p key={say(note)} className="text-sm text-base-content/75">
              {say(note)}
            </p>
          ))}
          <div className="flex flex-wrap items-end gap-x-4 gap-y-2">
            <Times film={film} isFirst={isFirst} set={set} />
          </div>
          <div className="flex flex-wrap items-end gap-x-4 gap-y-2">
            <Sound film={film} set={set} />
          </div>
          {(film.captions.length > 0 || (film.shown.sound !== null && !film.isMuted && film.isSpoken)) && (
            <FilmCaptions lecture={lecture} film={film} set={set} />
          )}
          <FilmPlacing film={film} step={step} onPlace={(place) => set(say('place'), { place })} />
          <Description film={film} set={set} />
        </div>
      ) : (
        !film.problem &&
        isComing && <p className="ps-6 text-sm text-base-content/75">{say('It is being made ready, and is shown then.')}</p>
      )}
    </li>
  )
}

/** Nothing where the slide has none. */
export function Films({ lecture, slide, number }: { lecture: Lecture; slide: Slide; number: number }) {
  if (slide.steps.every((step) => step.films.length === 0)) return null
  return (
    <section aria-label={say('Films on slide {number}', { number })} className="mt-4 border-t border-base-300 pt-2">
      <ul>
        {slide.steps.flatMap((step, i) =>
          step.films.map((film) => (
            <FilmRow key={film.id} lecture={lecture} film={film} step={step} isFirst={i === 0} number={i + 1} />
          )),
        )}
      </ul>
    </section>
  )
}
