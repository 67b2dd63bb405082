/** A number that is kept when the field is left or Enter is pressed; for what is out of range the nearest that is in it is taken, and said. */

import { useEffect, useId, useState } from 'react'
import { say } from '#core/words/say.ts'

interface NumberFieldProps {
  label: string
  /** Null shows an empty field with the placeholder. */
  value: number | null
  placeholder?: string
  unit: string
  min: number
  max: number
  step: number
  onChange: (value: number) => void
}

export function NumberField({ label, value, placeholder, unit, min, max, step, onChange }: NumberFieldProps) {
  const id = useId()
  const shown = value === null ? '' : String(value)
  const [text, setText] = useState(shown)
  const [said, setSaid] = useState('')
  useEffect(() => setText(shown), [shown])
  const keep = () => {
    const typed = Number(text.replace(',', '.'))
    if (text.trim() === '' || !Number.isFinite(typed)) return setText(shown)
    const inRange = Math.min(max, Math.max(min, typed))
    setSaid(
      inRange === typed
        ? ''
        : say(inRange === max ? '{bound} {unit} is the most there can be.' : '{bound} {unit} is the least there can be.', {
            bound: inRange,
            unit,
          }),
    )
    setText(String(inRange))
    if (inRange !== value) onChange(inRange)
  }
  return (
    <label htmlFor={id} className="grid gap-0.5 text-sm">
      <span>{label}</span>
      <span className="flex items-center gap-1.5">
        <input
          id={id}
          type="number"
          className="input input-sm w-20 border-edge bg-base-100"
          value={text}
          placeholder={placeholder}
          min={min}
          max={max}
          step={step}
          onChange={(event) => {
            setSaid('')
            setText(event.target.value)
          }}
          onBlur={keep}
          onKeyDown={(event) => event.key === 'Enter' && keep()}
        />
        <span className="text-base-content/75">{unit}</span>
      </span>
      {said && (
        <span role="status" className="max-w-40 text-xs text-secondary">
          {said}
        </span>
      )}
    </label>
  )
}
