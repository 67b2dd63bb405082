/** The name of a link: kept when the field is left, and never empty. */
import { useState } from 'react'
import { say } from '#core/words/say.ts'

export function NameField({ name, onChange }: { name: string; onChange: (name: string) => void }) {
  const [typed, setTyped] = useState(name)
  return (
    <label className="flex items-center gap-2">
      <span className="w-24">{say('Name')}</span>
      <input
        className="input input-xs w-44 border-edge bg-base-100"
        maxLength={100}
        value={typed}
        onChange={({ target }) => setTyped(target.value)}
        onBlur={() => typed.trim() !== '' && typed !== name && onChange(typed)}
      />
    </label>
  )
}
