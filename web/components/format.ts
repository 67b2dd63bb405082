/** Figures of sound, time and size as people read them. */
import { figure } from '#core/words/figures.ts'
import { isolated, locale, say } from '#core/words/say.ts'

/** @returns `m:ss.s`, or `h:mm:ss.s` from an hour on */
export function clock(seconds: number, digits: 0 | 1 = 1): string {
  const unit = digits === 1 ? 10 : 1
  const total = Math.round(seconds * unit)
  const rest = (total % (60 * unit)) / unit
  const minutes = Math.floor(total / (60 * unit))
  const twoDigits = figure(rest, digits, 2)
  if (minutes < 60) return isolated(`${minutes}:${twoDigits}`, 'ltr')
  return isolated(`${Math.floor(minutes / 60)}:${String(minutes % 60).padStart(2, '0')}:${twoDigits}`, 'ltr')
}

export const lufs = (value: number | null) =>
  value === null ? say('silent') : isolated(say('{value} LUFS', { value: figure(value, 1) }), 'ltr')
export const decibels = (value: number | null) => (value === null ? '–' : isolated(say('{value} dB', { value: figure(value) })))
export const megabytes = (bytes: number) => isolated(say('{value} MB', { value: figure(bytes / 1e6, bytes < 1e7 ? 1 : 0) }))
export const inSeconds = (seconds: number, digits = 1) => isolated(say('{seconds} s', { seconds: figure(seconds, digits) }))
export const percent = (share: number) => isolated(`${Math.round(share * 100)} %`, 'ltr')
export const moment = (time: number) =>
  isolated(new Intl.DateTimeFormat(locale(), { dateStyle: 'medium', timeStyle: 'short' }).format(time))
export const day = (time: number) => isolated(new Intl.DateTimeFormat(locale(), { dateStyle: 'long' }).format(time))
