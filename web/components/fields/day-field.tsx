/** A day until whose end something holds, where the teacher is. */
const A_DAY_MS = 24 * 3600_000

/** The day of a moment as a date field wants it, in the viewer's own time. */
const dayOf = (time: number) => {
  const day = new Date(time)
  return `${day.getFullYear()}-${String(day.getMonth() + 1).padStart(2, '0')}-${String(day.getDate()).padStart(2, '0')}`
}

interface DayFieldProps {
  label: string
  /** Milliseconds since 1970: the end of the day; null for none. */
  value: number | null
  onChange: (value: number | null) => void
}

export const DayField = ({ label, value, onChange }: DayFieldProps) => (
  <label className="flex flex-wrap items-center gap-2">
    <span className="min-w-24">{label}</span>
    <input
      type="date"
      className="input input-xs w-44 border-edge bg-base-100"
      min={dayOf(Date.now())}
      value={value === null ? '' : dayOf(value)}
      onChange={({ target }) => onChange(target.value ? new Date(`${target.value}T00:00`).getTime() + A_DAY_MS - 1000 : null)}
    />
  </label>
)
