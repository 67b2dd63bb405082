/** A take on its own time axis: what is heard of it, what was taken out, as recorded beside tidied, and the figures of both. */
import { useState } from 'react'
import type { Take } from '#core/lecture.ts'
import { slideSeconds, takeSeconds, toSeconds } from '#core/timing/clocks.ts'
import { keptStretches, timeMap } from '#core/timing/time-map.ts'
import { soundUrl } from '#web/shared/api.ts'
import { decibels, lufs } from '#web/shared/format.ts'
import { playMoment, stopPlay, togglePlay, usePlaying } from '#web/shared/player/sound.ts'
import { PlayButton } from '#web/shared/ui/play-button.tsx'
import { Strip } from '#web/shared/ui/strip.tsx'
import { useWidth } from '#web/shared/use-width.ts'

/** Stretches of the take that are not heard, in samples. */
function removedStretches(take: Take) {
  if (!take.tidyUp) return []
  const removed: { start: number; end: number }[] = []
  let at = 0
  for (const kept of [...keptStretches(take.tidyUp), { start: take.samples, end: take.samples }]) {
    if (kept.start > at) removed.push({ start: at, end: kept.start })
    at = kept.end
  }
  return removed
}

function Figure({ name, before, after }: { name: string; before: string; after: string }) {
  return (
    <div className="contents">
      <dt className="text-base-content/75">{name}</dt>
      <dd className="whitespace-nowrap">
        {before} → <strong>{after}</strong>
      </dd>
    </div>
  )
}

export function TakeSound({ take }: { take: Take }) {
  const [tidied, setTidied] = useState(true)
  const [measure, width] = useWidth()
  const playing = usePlaying()
  if (!take.sound || !take.peaks) return null
  const { clip, tidyUp, analysis } = take
  const raw = soundUrl(take.sound)
  const url = tidied && clip ? soundUrl(clip.sound) : raw
  const seconds = toSeconds(take.samples)
  const removed = removedStretches(take)

  /** Changes what is heard at the same spot of the take. */
  const listenTo = (toTidied: boolean) => {
    setTidied(toTidied)
    if (playing !== url || !clip || !tidyUp) return
    const map = timeMap(tidyUp, 0)
    const moment = playMoment()
    const there = toTidied ? (map.toSlide(takeSeconds(moment)) ?? 0) : (map.toTake(slideSeconds(moment)) ?? 0)
    stopPlay()
    togglePlay(toTidied ? soundUrl(clip.sound) : raw, there)
  }

  return (
    <div className="grid grid-cols-[1fr_20rem] gap-6 max-md:grid-cols-1">
      <div ref={measure} className="relative h-20 min-w-0 border-y border-base-300 bg-base-100">
        {width > 0 && (
          <Strip
            peaks={take.peaks}
            seconds={seconds}
            width={width}
            height={78}
            label={`Take ${take.number} as recorded, ${seconds.toFixed(1)} seconds`}
          />
        )}
        {removed.map((stretch) => (
          <div
            key={stretch.start}
            role="img"
            aria-label={`Taken out: ${toSeconds(stretch.end - stretch.start).toFixed(1)} seconds`}
            className="hatched absolute inset-y-0 border-x border-base-content bg-base-100/70"
            style={{
              left: `${(100 * stretch.start) / take.samples}%`,
              width: `${(100 * (stretch.end - stretch.start)) / take.samples}%`,
            }}
          />
        ))}
      </div>
      <div className="text-sm">
        <div className="mb-2 flex items-center gap-2">
          <div role="radiogroup" aria-label="What is heard" className="join">
            {[false, true].map((value) => (
              // biome-ignore lint/a11y/useSemanticElements: a switch of two large words, not a form
              <button
                key={String(value)}
                type="button"
                role="radio"
                aria-checked={tidied === value}
                disabled={!clip}
                onClick={() => listenTo(value)}
                className={`btn join-item btn-sm border-edge ${tidied === value ? 'btn-neutral' : ''}`}
              >
                {value ? 'Tidied' : 'As recorded'}
              </button>
            ))}
          </div>
          <PlayButton url={url} label={`take ${take.number}`} />
        </div>
        {analysis && clip ? (
          <dl className="grid grid-cols-[auto_1fr] gap-x-4 gap-y-0.5">
            <Figure
              name="Room"
              before={decibels(analysis.roomDb)}
              after={clip.figures.roomDb === null ? 'no pause to hear it' : decibels(clip.figures.roomDb)}
            />
            <Figure name="Voice" before={lufs(analysis.loudnessLufs)} after={lufs(clip.figures.loudnessLufs)} />
            <dt className="text-base-content/75">Taken out</dt>
            <dd>
              <strong>{toSeconds(take.samples - clip.samples).toFixed(1)} s</strong>
            </dd>
          </dl>
        ) : (
          <p className="text-base-content/75">{take.problem ?? 'Being tidied'}</p>
        )}
      </div>
    </div>
  )
}
