/** What tidying did to a take, in figures with their everyday meaning. */
import type { Take } from '#core/model/take.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { decibels, lufs } from '#web/components/format.ts'

function Figure({ name, before, after, hint }: { name: string; before: string; after: string; hint: string }) {
  return (
    <div className="contents" title={hint}>
      <dt className="text-base-content/75">{name}</dt>
      <dd className="text-right whitespace-nowrap">{before}</dd>
      <dd className="text-right whitespace-nowrap">
        → <strong>{after}</strong>
      </dd>
    </div>
  )
}

/** Common practice, no published source: below this a listener hears the room all the time. */
const NOISY_BELOW_DB = 10

/** Voice over room; both as loud as they are heard. */
const over = (voice: number | null, room: number | null) => (voice === null || room === null ? null : voice - room)

export function TakeFigures({ take }: { take: Take }) {
  const { analysis, clip } = take
  if (!analysis) return <p className="text-sm text-base-content/75">{take.problem ?? 'Being tidied'}</p>
  const after = clip?.figures
  const seconds = toSeconds(take.samples)
  const before = over(analysis.loudnessLufs, analysis.noiseFloorDb)
  const close = analysis.speech.length > 0 && before !== null && before < NOISY_BELOW_DB
  const clippedMs = (analysis.clippedSamples / 48_000) * 1000
  return (
    <div className="text-sm">
      <dl className="grid grid-cols-[auto_1fr_auto] gap-x-3 gap-y-0.5" aria-label="As recorded, and tidied">
        <Figure
          name="Room"
          before={decibels(analysis.noiseFloorDb)}
          after={after ? (after.noiseFloorDb === null ? 'no pause' : decibels(after.noiseFloorDb)) : '…'}
          hint="Noise between the words, dBFS"
        />
        <Figure
          name="Voice"
          before={lufs(analysis.loudnessLufs)}
          after={after ? lufs(after.loudnessLufs) : '…'}
          hint="Loudness"
        />
        <Figure
          name="Voice over room"
          before={decibels(before)}
          after={after ? decibels(over(after.loudnessLufs, after.noiseFloorDb)) : '…'}
          hint="How far the voice stands out of the noise"
        />
        <Figure
          name="Highest peak"
          before={decibels(analysis.truePeakDbtp)}
          after={after ? decibels(after.truePeakDbtp) : '…'}
          hint="True peak, dBTP; 0 is full scale"
        />
        <Figure
          name="Length"
          before={`${seconds.toFixed(1)} s`}
          after={clip ? `${toSeconds(clip.samples).toFixed(1)} s` : '…'}
          hint="Before and after trimming, cuts and shorter pauses"
        />
      </dl>
      {analysis.speech.length === 0 && <p className="mt-1 text-secondary">No voice found: was the microphone muted?</p>}
      {close && (
        <p className="mt-1 text-secondary">
          The room is nearly as loud as the voice. Cleaning helps, but moving closer to the microphone helps more.
        </p>
      )}
      {clippedMs > 0 && (
        <p className="mt-1 text-secondary">
          {clippedMs < 1 ? 'A few peaks touch' : `${clippedMs.toFixed(0)} ms touch`} full scale. If it can be heard, turn the
          microphone down and record again.
        </p>
      )}
      {after && after.gainReductionDb > 6 && (
        <p className="mt-1 text-secondary">
          Peaks were held down by {after.gainReductionDb.toFixed(0)} dB: a very uneven voice, or a knock.
        </p>
      )}
    </div>
  )
}
