/** What tidying did to a take, in figures with their everyday meaning. */

import type { Take } from '#core/model/take.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { figure } from '#core/words/figures.ts'
import { say } from '#core/words/say.ts'
import { decibels, inSeconds, lufs } from '#web/components/format.ts'

function Figure({ name, before, after, hint }: { name: string; before: string; after: string; hint: string }) {
  return (
    <div className="contents" title={hint}>
      <dt className="text-base-content/75">{name}</dt>
      <dd className="text-end whitespace-nowrap">{before}</dd>
      <dd className="text-end whitespace-nowrap">
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
  if (!analysis) return <p className="text-sm text-base-content/75">{take.problem ? say(take.problem) : say('Being tidied')}</p>
  const after = clip?.figures
  const seconds = toSeconds(take.samples)
  const before = over(analysis.loudnessLufs, analysis.noiseFloorDb)
  const close = analysis.speech.length > 0 && before !== null && before < NOISY_BELOW_DB
  const clippedMs = (analysis.clippedSamples / 48_000) * 1000
  return (
    <div className="text-sm">
      <dl className="grid grid-cols-[auto_1fr_auto] gap-x-3 gap-y-0.5" aria-label={say('As recorded, and tidied')}>
        <Figure
          name={say('Room')}
          before={decibels(analysis.noiseFloorDb)}
          after={after ? (after.noiseFloorDb === null ? say('no pause') : decibels(after.noiseFloorDb)) : '…'}
          hint={say('Noise between the words, dBFS')}
        />
        <Figure
          name={say('Voice')}
          before={lufs(analysis.loudnessLufs)}
          after={after ? lufs(after.loudnessLufs) : '…'}
          hint={say('Loudness')}
        />
        <Figure
          name={say('Voice over room')}
          before={decibels(before)}
          after={after ? decibels(over(after.loudnessLufs, after.noiseFloorDb)) : '…'}
          hint={say('How far the voice stands out of the noise')}
        />
        <Figure
          name={say('Highest peak')}
          before={decibels(analysis.truePeakDbtp)}
          after={after ? decibels(after.truePeakDbtp) : '…'}
          hint={say('True peak, dBTP; 0 is full scale')}
        />
        <Figure
          name={say('Length')}
          before={inSeconds(seconds)}
          after={clip ? inSeconds(toSeconds(clip.samples)) : '…'}
          hint={say('Before and after trimming, cuts and shorter pauses')}
        />
      </dl>
      {analysis.speech.length === 0 && <p className="mt-1 text-secondary">{say('No voice found: was the microphone muted?')}</p>}
      {close && (
        <p className="mt-1 text-secondary">
          {say('The room is nearly as loud as the voice. Cleaning helps, but moving closer to the microphone helps more.')}
        </p>
      )}
      {clippedMs > 0 && (
        <p className="mt-1 text-secondary">
          {clippedMs < 1
            ? say('A few peaks touch full scale. If it can be heard, turn the microphone down and record again.')
            : say('{milliseconds} ms touch full scale. If it can be heard, turn the microphone down and record again.', {
                milliseconds: figure(clippedMs),
              })}
        </p>
      )}
      {after && after.gainReductionDb > 6 && (
        <p className="mt-1 text-secondary">
          {say('Peaks were held down by {decibels} dB: a very uneven voice, or a knock.', {
            decibels: figure(after.gainReductionDb),
          })}
        </p>
      )}
    </div>
  )
}
