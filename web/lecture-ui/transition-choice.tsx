import { NO_TRANSITION, TRANSITION_WORDS, type Transition } from '#core/model/transition.ts'
import { say } from '#core/words/say.ts'

const LENGTHS = [0.2, 0.3, 0.5, 0.8, 1, 1.5]

/** @param follows words for following the lecture, where that can be chosen; the value is then null */
export function TransitionChoice({
  value,
  follows,
  onChange,
}: {
  value: Transition | null
  follows?: string
  onChange: (value: Transition | null) => void
}) {
  return (
    <div className="flex items-end gap-2">
      <label className="grid gap-0.5 text-sm">
        {say('Change of slide')}
        <select
          className="select select-sm w-44 border-edge bg-base-100"
          value={value?.kind ?? 'follows'}
          onChange={({ target }) =>
            onChange(
              target.value === 'follows' ? null : { ...(value ?? NO_TRANSITION), kind: target.value as Transition['kind'] },
            )
          }
        >
          {follows && <option value="follows">{follows}</option>}
          {Object.entries(TRANSITION_WORDS).map(([kind, words]) => (
            <option key={kind} value={kind}>
              {say(words)}
            </option>
          ))}
        </select>
      </label>
      {value && value.kind !== 'none' && (
        <select
          aria-label={say('Length of the change')}
          className="select select-sm w-20 border-edge bg-base-100"
          value={value.seconds}
          onChange={({ target }) => onChange({ ...value, seconds: Number(target.value) })}
        >
          {[...new Set([...LENGTHS, value.seconds])]
            .sort((a, b) => a - b)
            .map((seconds) => (
              <option key={seconds} value={seconds}>
                {say('{seconds} s', { seconds })}
              </option>
            ))}
        </select>
      )}
    </div>
  )
}
