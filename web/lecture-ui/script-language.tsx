/** In which language is spoken: of a lecture, or of what follows it or is found unless somebody says it. */

import { useState } from 'react'
import { say } from '#core/words/say.ts'
import { LanguageOptions } from './language-choice.tsx'

const OTHER = 'other'
const INHERITED = 'inherited'

interface ScriptLanguageProps {
  label: string
  value: string | null
  /** Where none has to be chosen: what holds then. */
  otherwise?: string
  onChange: (language: string | null) => void
}

export function ScriptLanguage({ label, value, otherwise, onChange }: ScriptLanguageProps) {
  const [typed, setTyped] = useState<string | null>(null)
  const keep = () => {
    if (typed?.trim()) onChange(typed.trim())
    setTyped(null)
  }
  if (typed !== null)
    return (
      <input
        ref={(input) => input?.focus()}
        aria-label={label}
        className="input input-xs w-full border-edge bg-base-100"
        placeholder={say('a tag such as cy or pt-AO')}
        value={typed}
        onChange={({ target }) => setTyped(target.value)}
        onBlur={keep}
        onKeyDown={({ key }) => (key === 'Enter' ? keep() : key === 'Escape' && setTyped(null))}
      />
    )
  return (
    <select
      aria-label={label}
      className="select select-xs w-full border-edge bg-base-100"
      value={value ?? INHERITED}
      onChange={({ target }) =>
        target.value === OTHER ? setTyped('') : onChange(target.value === INHERITED ? null : target.value)
      }
    >
      {otherwise !== undefined && <option value={INHERITED}>{otherwise}</option>}
      <LanguageOptions chosen={value} />
      <option value={OTHER}>{say('Another…')}</option>
    </select>
  )
}
