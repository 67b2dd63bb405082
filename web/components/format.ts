/** Figures as people read them, in their language and as their region writes them. */
import { locale, say } from '#core/words/say.ts'

/** Making one takes a millisecond, and a sheet shows hundreds of figures. */
const formats = new Map<string, Intl.NumberFormat>()
function format(value: number, digits: number, leading = 1): string {
  const key = `${digits} ${leading}`
  const known = formats.get(key)
  const made =
    known ??
    new Intl.NumberFormat(locale(), {
      minimumFractionDigits: digits,
      maximumFractionDigits: digits,
      minimumIntegerDigits: leading,
    })
  formats.set(key, made)
  return made.format(value)
}

/** @returns `m:ss.s`, or `h:mm:ss.s` from an hour on */
export function clock(seconds: number, digits: 0 | 1 = 1): string {
  const unit = digits === 1 ? 10 : 1
  const total = Math.round(seconds * unit)
  const rest = (total % (60 * unit)) / unit
  const minutes = Math.floor(total / (60 * unit))
  const twoDigits = format(rest, digits, 2)
  if (minutes < 60) return `${minutes}:${twoDigits}`
  return `${Math.floor(minutes / 60)}:${String(minutes % 60).padStart(2, '0')}:${twoDigits}`
}

const number = (value: number, digits: number) => format(value, digits).replace('-', '−')

export const lufs = (value: number | null) => (value === null ? say('silent') : say('{value} LUFS', { value: number(value, 1) }))
export const decibels = (value: number | null) => (value === null ? '–' : say('{value} dB', { value: number(value, 0) }))
export const megabytes = (bytes: number) => say('{value} MB', { value: number(bytes / 1e6, bytes < 1e7 ? 1 : 0) })
export const moment = (time: number) =>
  new Intl.DateTimeFormat(locale(), { dateStyle: 'medium', timeStyle: 'short' }).format(time)
