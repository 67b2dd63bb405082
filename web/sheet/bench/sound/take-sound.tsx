/** A take on its own time axis: heard as recorded or tidied, trimmed, cut, silenced and cleaned by hand. */
import { Play, Repeat, Square, Undo2 } from 'lucide-react'
import { type KeyboardEvent, type ReactNode, useCallback, useEffect, useRef, useState } from 'react'
import { toast } from 'sonner'
import { cutOut, gainOver, limitPauses, putBack, silenceOut } from '#core/audio/tidy-up/edit.ts'
import type { Lecture } from '#core/model/lecture.ts'
import type { SampleRange } from '#core/model/sample-range.ts'
import type { Take } from '#core/model/take.ts'
import type { TidyUp } from '#core/model/tidy-up.ts'
import { toSamples, toSeconds } from '#core/timing/clocks.ts'
import { clock, plural } from '#web/components/format.ts'
import { Key } from '#web/components/key-list.tsx'
import { soundUrl } from '#web/data/api.ts'
import { suggested, useSameForAll, useTidyUp } from '#web/data/use-tidy-up.ts'
import { TidySettings } from '#web/lecture-ui/tidy-settings.tsx'
import { player as lecturePlayer } from '#web/playback/player.ts'
import { Bookmarks } from './bookmarks.tsx'
import { Fades } from './fades.tsx'
import { type Heard, type TakePlayer, takePlayer } from './player.ts'
import { prepare, preview, stopPreview } from './preview.ts'
import { SoundView } from './sound-view.tsx'
import { TakeFigures } from './take-figures.tsx'
import { reveal, type View, whole, zoom } from './view.ts'

function ToolButton({ children, onClick, shortcut }: { children: ReactNode; onClick: () => void; shortcut?: string }) {
  return (
    <button type="button" className="btn btn-xs border-edge" onClick={onClick}>
      {children} {shortcut && <Key>{shortcut}</Key>}
    </button>
  )
}

/** What can be done with the selected stretch. */
function SelectionBar({
  selection,
  recipe,
  onLoop,
  onRecipe,
}: {
  selection: SampleRange
  recipe: TidyUp
  onLoop: () => void
  onRecipe: (recipe: TidyUp, label: string) => void
}) {
  return (
    <div className="flex flex-wrap items-center gap-1.5 py-1 text-sm">
      <span className="mr-1">
        Selected {clock(toSeconds(selection.start))} to {clock(toSeconds(selection.end))} (
        {toSeconds(selection.end - selection.start).toFixed(2)} s)
      </span>
      <ToolButton onClick={onLoop} shortcut="L">
        <Repeat size={13} aria-hidden /> Hear it in a loop
      </ToolButton>
      <ToolButton onClick={() => onRecipe(cutOut(recipe, selection), 'cut')} shortcut="X">
        Cut out
      </ToolButton>
      <ToolButton onClick={() => onRecipe(putBack(recipe, selection), 'putting back')} shortcut="B">
        Put back
      </ToolButton>
      <ToolButton onClick={() => onRecipe(silenceOut(recipe, selection), 'silence')}>Only the room</ToolButton>
      <ToolButton onClick={() => onRecipe(gainOver(recipe, selection, -6), 'quieter')}>Quieter</ToolButton>
      <ToolButton onClick={() => onRecipe(gainOver(recipe, selection, 4), 'louder')}>Louder</ToolButton>
      <ToolButton onClick={() => onRecipe({ ...recipe, roomTone: selection }, 'room tone')}>This is the room</ToolButton>
    </div>
  )
}

interface TakeSoundProps {
  lecture: Lecture
  take: Take
  slideNumber: number
  /** What stands under the sound, and under the controls beside it. */
  below: ReactNode
  beside: ReactNode
}

export function TakeSound({ lecture, take, slideNumber, below, beside }: TakeSoundProps) {
  const length = toSeconds(take.samples)
  const [view, setView] = useState<View>(() => whole(length))
  const [selection, setSelection] = useState<SampleRange | null>(null)
  const [dragged, setDragged] = useState<TidyUp | null>(null)
  const [heard, setHeard] = useState<Heard>('tidied')
  const [equal, setEqual] = useState(false)
  const [{ moment, playing }, setPlay] = useState({ moment: 0, playing: false })
  const player = useRef<TakePlayer>(null)
  const change = useTidyUp(lecture, take, slideNumber)
  const sameForAll = useSameForAll(lecture)
  const recipe = dragged ?? take.tidyUp
  const clip = take.clip

  // a new clip is a new player; it waits where the one before was
  const sounds = JSON.stringify([take.sound, clip?.sound, clip ? take.tidyUp : null])
  // biome-ignore lint/correctness/useExhaustiveDependencies: what the sounds are made of is in their names
  useEffect(() => {
    if (!take.sound || !take.tidyUp) return
    const made = takePlayer(
      {
        recorded: soundUrl(take.sound),
        tidied: clip ? soundUrl(clip.sound) : null,
        removal: take.tidyUp,
        loudness: { recorded: take.analysis?.loudnessLufs ?? null, tidied: clip?.figures.loudnessLufs ?? null },
      },
      heard,
    )
    made.setEqual(equal)
    made.seek(player.current?.moment() ?? toSeconds(take.tidyUp.kept.start))
    made.onChange = (state) => {
      setPlay(state)
      if (state.playing) setView((v) => reveal(v, state.moment, length))
    }
    player.current = made
    return () => made.close()
  }, [sounds])
  useEffect(() => stopPreview, [])

  const listenTo = useCallback((what: Heard) => {
    setHeard(what)
    player.current?.hear(what)
  }, [])
  const toggle = () => {
    lecturePlayer.pause()
    if (playing) player.current?.pause()
    else player.current?.play(moment >= length - 0.05 ? 0 : moment)
  }
  const loop = () =>
    selection &&
    player.current?.play(toSeconds(selection.start), { start: toSeconds(selection.start), end: toSeconds(selection.end) })

  if (!recipe || !take.tidyUp) return null

  const kept = take.tidyUp
  const edit = (next: TidyUp, label: string) =>
    change(
      next.longestPauseSeconds === kept.longestPauseSeconds
        ? next
        : limitPauses(next, take.analysis ?? { speech: [] }, next.longestPauseSeconds),
      label,
    )
  const seek = (to: number) => player.current?.seek(Math.max(0, Math.min(length, to)))

  const onKey = (event: KeyboardEvent) => {
    if (event.ctrlKey || event.metaKey || event.altKey) return
    const step = (view.end - view.start) / 100
    const arrow = { ArrowLeft: -step, ArrowRight: step }[event.key]
    if (arrow !== undefined) {
      // with Shift the edge of the selection that was moved last goes on; at first that is its end
      const atStart = selection !== null && Math.abs(toSeconds(selection.start) - moment) < 1e-3
      const from = event.shiftKey && selection && !atStart ? toSeconds(selection.end) : moment
      const to = Math.max(0, Math.min(length, from + arrow))
      if (event.shiftKey) {
        const fixed = selection ? (atStart ? selection.end : selection.start) : toSamples(moment)
        const moved = toSamples(to)
        if (moved !== fixed) setSelection({ start: Math.min(fixed, moved), end: Math.max(fixed, moved) })
      }
      seek(to)
      setView(reveal(view, to, length))
    } else {
      const acts: Record<string, () => void> = {
        ' ': toggle,
        Home: () => seek(0),
        End: () => seek(length),
        '+': () => setView(zoom(view, 0.6, moment, length)),
        '-': () => setView(zoom(view, 1 / 0.6, moment, length)),
        l: () => loop(),
        t: () => listenTo(heard === 'tidied' ? 'recorded' : 'tidied'),
        x: () => selection && edit(cutOut(kept, selection), 'cut'),
        Delete: () => selection && edit(cutOut(kept, selection), 'cut'),
        b: () => selection && edit(putBack(kept, selection), 'putting back'),
        Escape: () => setSelection(null),
      }
      const act = acts[event.key]
      if (!act) return
      act()
    }
    event.preventDefault()
    event.stopPropagation()
  }

  const trailingUtterance = take.analysis?.trailingUtterance
  const offered =
    trailingUtterance &&
    trailingUtterance.end <= kept.kept.end &&
    !kept.cuts.some((c) => c.start <= trailingUtterance.start && c.end >= trailingUtterance.end)
  return (
    <div className="grid grid-cols-[1fr_20rem] gap-6 max-md:grid-cols-1">
      <div className="min-w-0">
        <div className="mb-2 flex flex-wrap items-center gap-2 text-sm">
          <button type="button" className="btn btn-sm border-edge" onClick={toggle} aria-label={playing ? 'Stop' : 'Play'}>
            {playing ? <Square size={14} fill="currentColor" aria-hidden /> : <Play size={15} fill="currentColor" aria-hidden />}
            <span className="w-14 text-left">{clock(moment)}</span>
          </button>
          <div role="radiogroup" aria-label="What is heard" className="join">
            {(['recorded', 'tidied'] as const).map((what) => (
              // biome-ignore lint/a11y/useSemanticElements: a switch of two large words, not a form
              <button
                key={what}
                type="button"
                role="radio"
                aria-checked={heard === what}
                disabled={what === 'tidied' && !clip}
                onClick={() => listenTo(what)}
                className={`btn join-item btn-sm border-edge ${heard === what ? 'btn-neutral' : ''}`}
              >
                {what === 'tidied' ? 'Tidied' : 'As recorded'}
              </button>
            ))}
          </div>
          <label className="flex items-center gap-1.5">
            <input
              type="checkbox"
              className="checkbox checkbox-xs border-edge"
              checked={equal}
              onChange={(event) => {
                setEqual(event.target.checked)
                player.current?.setEqual(event.target.checked)
              }}
            />
            equally loud
          </label>
          <span className="ml-auto flex gap-1.5">
            <ToolButton onClick={() => setView(zoom(view, 0.5, moment, length))} shortcut="+">
              Zoom in
            </ToolButton>
            <ToolButton onClick={() => setView(zoom(view, 2, moment, length))} shortcut="−">
              Zoom out
            </ToolButton>
            <ToolButton onClick={() => setView(whole(length))}>Whole take</ToolButton>
          </span>
        </div>
        <SoundView
          take={take}
          recipe={recipe}
          view={view}
          onView={setView}
          selection={selection}
          onSelect={setSelection}
          onDrag={setDragged}
          onRecipe={edit}
          moment={moment}
          onSeek={seek}
          onKey={onKey}
        />
        {selection ? (
          <SelectionBar selection={selection} recipe={kept} onLoop={loop} onRecipe={edit} />
        ) : (
          <p className="py-1 text-sm text-base-content/75">
            Drag over the sound to select a stretch; drag the two grips to trim.
          </p>
        )}
        {offered && (
          <p className="flex flex-wrap items-center gap-2 py-1 text-sm">
            At {clock(toSeconds(trailingUtterance.start))} a few words follow a long pause. Were they meant?
            <ToolButton onClick={() => player.current?.play(toSeconds(trailingUtterance.start) - 0.3)}>Hear them</ToolButton>
            <ToolButton onClick={() => edit(cutOut(kept, { start: trailingUtterance.start, end: take.samples }), 'cut')}>
              Cut them out
            </ToolButton>
          </p>
        )}
        <Bookmarks lecture={lecture} take={take} slideNumber={slideNumber} moment={moment} onSeek={seek} />
        <div className="mt-3">{below}</div>
      </div>
      {/* the stretch is studied when the controls are gone to, so that the first change is heard as soon as the later ones */}
      {/* biome-ignore lint/a11y/useSemanticElements: a group of controls, not a form */}
      <div
        role="group"
        aria-label="Tidying of this take"
        className="grid content-start gap-3"
        onPointerEnter={() => prepare(take, view)}
        onFocus={() => prepare(take, view)}
      >
        <TakeFigures take={take} />
        <TidySettings
          settings={kept}
          humHz={take.analysis?.humHz ?? null}
          onChange={edit}
          onStrength={(strength) => {
            player.current?.pause()
            void preview(take, view, strength).then(
              (ms) => ms !== null && performance.measure('strength heard', { start: performance.now() - ms, duration: ms }),
              () => toast.error('The change cannot be heard before it is kept: this part of the recording did not arrive.'),
            )
          }}
        />
        <Fades recipe={kept} onRecipe={edit} />
        <div className="flex flex-wrap gap-1.5">
          <ToolButton onClick={() => edit(suggested(take), 'putting back to suggested')}>
            <Undo2 size={13} aria-hidden /> As suggested
          </ToolButton>
          <ToolButton
            onClick={() => {
              const count = sameForAll(kept)
              toast(
                count === 0
                  ? 'All slides are tidied like this already.'
                  : `${plural(count, 'slide')} will be tidied like this one.`,
              )
            }}
          >
            Same for all slides
          </ToolButton>
        </div>
        {beside}
      </div>
    </div>
  )
}
