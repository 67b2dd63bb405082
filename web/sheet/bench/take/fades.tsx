/** How a clip comes in and goes out. */

import type { Fade, TidyUp } from '#core/model/tidy-up.ts'
import { type Message, message, say } from '#core/words/say.ts'

const LENGTHS: [Message, number][] = [
  [message('at once'), 0.008],
  [message('over 0.1 s'), 0.1],
  [message('over 0.3 s'), 0.3],
  [message('over 1 s'), 1],
]
const SHAPES: [Message, Fade['shape']][] = [
  [message('evenly'), 'linear'],
  [message('rounded'), 'equal-power'],
]

export function Fades({ recipe, onRecipe }: { recipe: TidyUp; onRecipe: (recipe: TidyUp, label: string) => void }) {
  const row = (name: string, label: string, key: 'fadeIn' | 'fadeOut') => {
    const fade = recipe[key]
    const set = (change: Partial<Fade>) => onRecipe({ ...recipe, [key]: { ...fade, ...change } }, label)
    return (
      <div className="grid grid-cols-[5rem_1fr_6rem] items-center gap-2">
        {name}
        <select
          aria-label={say('{name}: how long', { name })}
          className="select select-xs border-edge bg-base-100"
          value={String(fade.seconds)}
          onChange={(event) => set({ seconds: Number(event.target.value) })}
        >
          {!LENGTHS.some(([, seconds]) => seconds === fade.seconds) && (
            <option value={String(fade.seconds)}>{say('{seconds} s', { seconds: fade.seconds })}</option>
          )}
          {LENGTHS.map(([text, seconds]) => (
            <option key={seconds} value={String(seconds)}>
              {say(text)}
            </option>
          ))}
        </select>
        <select
          aria-label={say('{name}: shape', { name })}
          className="select select-xs border-edge bg-base-100"
          value={fade.shape}
          onChange={(event) => set({ shape: event.target.value as Fade['shape'] })}
        >
          {SHAPES.map(([text, shape]) => (
            <option key={shape} value={shape}>
              {say(text)}
            </option>
          ))}
        </select>
      </div>
    )
  }
  return (
    <div className="grid gap-2 text-sm">
      {row(say('Fade in'), say('fade in'), 'fadeIn')}
      {row(say('Fade out'), say('fade out'), 'fadeOut')}
    </div>
  )
}
