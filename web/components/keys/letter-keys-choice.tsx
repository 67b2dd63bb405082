import { useState } from 'react'
import { say } from '#core/words/say.ts'
import { chooseLetterKeys, lettersAreKeys } from './letter-keys.ts'

/** Turns single letters as keys off and on. */
export function LetterKeysChoice() {
  const [on, setOn] = useState(lettersAreKeys)
  return (
    <label className="flex items-center gap-2 py-1">
      <input
        type="checkbox"
        className="checkbox checkbox-sm border-edge"
        checked={on}
        onChange={({ target }) => {
          chooseLetterKeys(target.checked)
          setOn(target.checked)
        }}
      />
      {say('Single letters and signs work as keys')}
    </label>
  )
}
