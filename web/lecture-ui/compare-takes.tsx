/** Two takes of a slide, sentence by sentence: the same words are heard in one and in the other. */

import { Play } from 'lucide-react'
import { useEffect, useState } from 'react'
import { type SaidSentence, sideBySide } from '#core/captions/compare/compare-takes.ts'
import type { Slide } from '#core/model/slide.ts'
import type { Take } from '#core/model/take.ts'
import { takeSeconds, toSeconds } from '#core/timing/clocks.ts'
import { timeMap } from '#core/timing/time-map.ts'
import { say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { clock, decibels, inSeconds, lufs } from '#web/components/format.ts'
import { Dialog } from '#web/components/overlay/dialog.tsx'
import { soundUrl } from '#web/data/api.ts'
import { lectureApi } from '#web/data/endpoints/lecture.ts'
import { playStretch, stopPlay } from '#web/playback/sound.ts'

/** Heard before and after the sentence, seconds. */
const AROUND_S = 0.15

interface CompareTakesProps {
  lectureId: string
  slide: Slide
  /** The one that is not kept. */
  take: Take
  onKeep: (take: Take) => void
  onClose: () => void
}

interface Heard {
  sound: string
  /** Seconds of it. */
  start: number
  end: number
}

/** Where a stretch of a take is heard: in its clip, or as it was recorded where there is none; null where it was cut out. */
function whereHeard({ clip, tidyUp, sound }: Take, start: number, end: number): Heard | null {
  if (!clip || !tidyUp) return sound === null ? null : { sound, start, end }
  const stretch = timeMap(tidyUp, 0).spanToSlide(takeSeconds(start), takeSeconds(end))
  return stretch && { sound: clip.sound, ...stretch }
}

function hear(take: Take, { start, end }: SaidSentence) {
  const heard = whereHeard(take, Math.max(0, start - AROUND_S), end + AROUND_S)
  if (heard) playStretch(soundUrl(heard.sound), heard.start, heard.end)
}

const figures = ({ clip, samples }: Take) =>
  clip
    ? say('{samples} · {loudnessLufs} · room {noiseFloorDb}', {
        samples: clock(toSeconds(clip.samples)),
        loudnessLufs: lufs(clip.figures.loudnessLufs),
        noiseFloorDb: decibels(clip.figures.noiseFloorDb),
      })
    : say('{samples} · as it was recorded', { samples: clock(toSeconds(samples)) })

export function CompareTakes({ lectureId, slide, take, onKeep, onClose }: CompareTakesProps) {
  const others = slide.takes.filter((other) => other.id !== take.id && other.state === 'sealed')
  const [otherId, setOtherId] = useState(slide.keptTakeId ?? others[0]?.id)
  const other = others.find(({ id }) => id === otherId) ?? others[0]!
  const { data: mine } = lectureApi.useSaidQuery({ takeId: take.id, lectureId })
  const { data: theirs } = lectureApi.useSaidQuery({ takeId: other.id, lectureId })
  useEffect(() => stopPlay, [])
  const pair = [take, other] as const
  const lists = [mine ?? [], theirs ?? []] as const
  const unheard = [mine, theirs].flatMap((said, i) =>
    said?.length === 0 ? [say('take {number}', { number: pair[i]!.number })] : [],
  )
  const rows = mine && theirs ? sideBySide(mine, theirs) : []
  return (
    <Dialog title={say('The same sentence in two takes')} width="max-w-3xl" onClose={onClose}>
      <table className="w-full text-sm">
        <thead>
          <tr className="align-bottom">
            <td className="pb-2 text-base-content/75">{say('Hear a sentence in one take, then in the other.')}</td>
            {pair.map((one, i) => (
              <th key={one.id} scope="col" className="w-40 pb-2 ps-3 text-start font-normal">
                {i === 1 && others.length > 1 ? (
                  <select
                    aria-label={say('Compared with')}
                    className="select select-xs w-auto border-edge font-medium"
                    value={one.id}
                    onChange={({ target }) => setOtherId(target.value)}
                  >
                    {others.map(({ id, number }) => (
                      <option key={id} value={id}>
                        {say('Take {number}', { number })}
                      </option>
                    ))}
                  </select>
                ) : (
                  <span className="font-medium">{say('Take {number}', { number: one.number })}</span>
                )}
                {one.id === slide.keptTakeId && <span className="ms-1 text-success">{say('kept')}</span>}
                <span className="block text-xs text-base-content/75">{figures(one)}</span>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((row, n) => (
            <tr key={`${n} ${row.text}`} className="border-t border-base-300 align-top">
              <th scope="row" className="py-1.5 pe-2 text-start font-normal">
                {row.text}
              </th>
              {pair.map((one, i) => {
                const said = row.in[i as 0 | 1]
                const heard = said && whereHeard(one, said.start, said.end)
                return (
                  <td key={one.id} className="py-1 ps-3">
                    {said && heard ? (
                      <Button
                        size="xs"
                        aria-label={say('Hear it in take {number}: {text}', { number: one.number, text: row.text })}
                        onClick={() => hear(one, said)}
                      >
                        <Play size={13} fill="currentColor" aria-hidden /> {inSeconds(heard.end - heard.start)}
                      </Button>
                    ) : (
                      <span className="text-base-content/75">
                        {said ? say('cut out') : lists[i]!.length > 0 ? say('not said') : '–'}
                      </span>
                    )}
                  </td>
                )
              })}
            </tr>
          ))}
        </tbody>
      </table>
      {unheard.length > 0 && (
        <p className="mt-2 text-sm">
          {say('No sentence of the script was found in {takes}. A take is listened to for its words when it is kept.', {
            takes: unheard.join(' and '),
          })}
        </p>
      )}
      <p className="mt-4 flex flex-wrap gap-2">
        {pair
          .filter(({ id }) => id !== slide.keptTakeId)
          .map((one) => (
            <Button
              key={one.id}
              onClick={() => {
                onKeep(one)
                onClose()
              }}
            >
              {say('Keep take {number}', { number: one.number })}
            </Button>
          ))}
        <Button kind="ghost" onClick={onClose}>
          {say('Close')}
        </Button>
      </p>
    </Dialog>
  )
}
