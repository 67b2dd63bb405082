/** Over which slides a recording is divided, and what its changes are proposed from. */

import type { Lecture } from '#core/model/lecture.ts'
import { type Message, message, say } from '#core/words/say.ts'
import type { From } from './proposal.ts'
import type { Division } from './use-division.ts'

const FROM_WORDS: Record<From, Message> = {
  marks: message('the pauses near my key presses'),
  pressed: message('my key presses as they were'),
  scripts: message('the scripts'),
  pauses: message('the longest pauses'),
  moments: message('moments I wrote down'),
  lengths: message('lengths I wrote down'),
}

export function DivisionChoices({ lecture, division }: { lecture: Lecture; division: Division }) {
  const { visits, first, last, from } = division
  return (
    <>
      {!visits &&
        (['first', 'last'] as const).map((which) => (
          <label key={which} className="grid gap-0.5 text-sm">
            {which === 'first' ? say('From slide') : say('to slide')}
            <select
              className="select select-sm w-48 border-edge bg-base-100"
              value={which === 'first' ? first : last}
              onChange={({ target }) =>
                which === 'first' ? division.setFirst(Number(target.value)) : division.setLast(Number(target.value))
              }
            >
              {lecture.slides.map((slide, i) => (
                <option key={slide.id} value={i}>
                  {i + 1}. {slide.title || say('Without a title')}
                </option>
              ))}
            </select>
          </label>
        ))}
      <label className="grid gap-0.5 text-sm">
        {say('Changes proposed from')}
        <select
          className="select select-sm w-52 border-edge bg-base-100"
          value={from}
          onChange={({ target }) => division.setFrom(target.value as From)}
        >
          {Object.entries(FROM_WORDS)
            .filter(([value]) => visits !== null || (value !== 'marks' && value !== 'pressed'))
            .map(([value, words]) => (
              <option key={value} value={value}>
                {say(words)}
              </option>
            ))}
        </select>
      </label>
    </>
  )
}

/** Moments or lengths that somebody wrote down. */
export function WrittenTimes({ division }: { division: Division }) {
  const { from, typed } = division
  if (from !== 'moments' && from !== 'lengths') return null
  return (
    <label className="grid max-w-3xl gap-1 text-sm">
      {from === 'moments' ? say('Moments at which the slide changed, without the start') : say('How long each slide was shown')}
      <input
        className="input w-full border-edge bg-base-100"
        placeholder={from === 'moments' ? '0:06, 0:11, 0:19, 0:23' : '6, 5, 8, 4, 9'}
        value={typed}
        onChange={({ target }) => division.setTyped(target.value)}
      />
    </label>
  )
}
