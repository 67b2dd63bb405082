/** The few controls of tidying that are about the room and the voice. */

import { type ReactNode, useEffect, useId, useRef, useState } from 'react'
import type { RoomSettings } from '#core/audio/tidy-up/edit.ts'
import { figure } from '#core/words/figures.ts'
import { type Message, message, say } from '#core/words/say.ts'
import { percent } from '#web/components/format.ts'

/** Keys move the slider step by step; it is kept when they rest. */
const SETTLED_MS = 500

const PAUSES: [Message, number | null][] = [
  [message('leave pauses as they are'), null],
  [message('at most 0.6 s'), 0.6],
  [message('at most 1.0 s'), 1],
  [message('at most 1.5 s'), 1.5],
  [message('at most 2.0 s'), 2],
]
const TARGETS: [Message, number | null][] = [
  [message('−16 LUFS, like web video'), -16],
  [message('−23 LUFS, like broadcasts'), -23],
  [message('as recorded'), null],
]

function Switch({ label, on, onChange }: { label: ReactNode; on: boolean; onChange: (on: boolean) => void }) {
  return (
    <label className="flex min-h-7 items-center gap-2">
      <input
        type="checkbox"
        className="checkbox checkbox-xs border-edge"
        checked={on}
        onChange={(event) => onChange(event.target.checked)}
      />
      {label}
    </label>
  )
}

function Choice({
  label,
  options,
  value,
  onChange,
}: {
  label: string
  options: [Message, number | null][]
  value: number | null
  onChange: (value: number | null) => void
}) {
  return (
    <label className="grid grid-cols-[5rem_1fr] items-center gap-2">
      {label}
      <select
        className="select select-xs border-edge bg-base-100"
        value={String(value)}
        onChange={(event) => onChange(event.target.value === 'null' ? null : Number(event.target.value))}
      >
        {!options.some(([, known]) => known === value) && <option value={String(value)}>{value}</option>}
        {options.map(([name, known]) => (
          <option key={name.id} value={String(known)}>
            {say(name)}
          </option>
        ))}
      </select>
    </label>
  )
}

interface TidySettingsProps<T extends RoomSettings> {
  settings: T
  /** Mains hum that was found, Hz. */
  humHz?: number | null
  onChange: (next: T, label: string) => void
  /** Told at every step of the slider, before it is let go. */
  onStrength?: (strength: number) => void
}

export function TidySettings<T extends RoomSettings>({ settings, humHz, onChange, onStrength }: TidySettingsProps<T>) {
  const id = useId()
  /** Where the slider was moved to, until that is what is kept. */
  const [moved, setMoved] = useState<number | null>(null)
  const settling = useRef<ReturnType<typeof setTimeout>>(undefined)
  const strength = moved ?? settings.cleaning
  useEffect(() => setMoved((to) => (to === settings.cleaning ? null : to)), [settings.cleaning])
  useEffect(() => () => clearTimeout(settling.current), [])
  const set = (change: Partial<RoomSettings>, label: string) => onChange({ ...settings, ...change }, label)
  const keep = () => {
    clearTimeout(settling.current)
    if (strength !== settings.cleaning) set({ cleaning: strength }, say('strength of cleaning'))
  }
  return (
    <div className="grid gap-2 text-sm">
      <div>
        <label htmlFor={id} className="flex justify-between">
          <span>{say('Cleaning')}</span>
          <strong>{percent(strength)}</strong>
        </label>
        <input
          id={id}
          type="range"
          min={0}
          max={100}
          step={5}
          value={Math.round(strength * 100)}
          className="range range-primary range-xs w-full"
          onChange={(event) => {
            const next = Number(event.target.value) / 100
            setMoved(next)
            clearTimeout(settling.current)
            onStrength?.(next)
          }}
          onPointerUp={keep}
          onKeyUp={() => {
            settling.current = setTimeout(keep, SETTLED_MS)
          }}
          onBlur={keep}
        />
        <div className="flex justify-between text-xs text-base-content/75" aria-hidden="true">
          <span>{say('none')}</span>
          <span className="translate-x-1/3">{say('moderate')}</span>
          <span>{say('strong')}</span>
        </div>
      </div>
      <div className="grid grid-cols-2 gap-x-3 gap-y-1">
        <Switch
          label={say('Take rumble away')}
          on={settings.highPassHz !== null}
          onChange={(on) => set({ highPassHz: on ? 70 : null }, say('rumble'))}
        />
        <Switch
          label={
            humHz
              ? say('Hum ({hertz} Hz found)', { hertz: figure(humHz, 1) })
              : humHz === null
                ? say('Hum (none found)')
                : say('Take hum away')
          }
          on={settings.hum}
          onChange={(hum) => set({ hum }, say('hum'))}
        />
        <Switch label={say('Clicks between words')} on={settings.clicks} onChange={(clicks) => set({ clicks }, say('clicks'))} />
        <Switch
          label={say('Even out loud and quiet')}
          on={settings.level?.even ?? false}
          onChange={(even) => settings.level && set({ level: { ...settings.level, even } }, say('evening out'))}
        />
      </div>
      <Choice
        label={say('Pauses')}
        options={PAUSES}
        value={settings.longestPauseSeconds}
        onChange={(longestPauseSeconds) => set({ longestPauseSeconds }, say('longest pause'))}
      />
      <Choice
        label={say('Loudness')}
        options={TARGETS}
        value={settings.level?.targetLufs ?? null}
        onChange={(target) =>
          set(
            { level: target === null ? null : { targetLufs: target, ceilingDbtp: -1, even: settings.level?.even ?? false } },
            say('loudness'),
          )
        }
      />
    </div>
  )
}
