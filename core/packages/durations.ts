/** Lengths of time as learning platforms read them. */

const split = (seconds: number) => {
  const hundredths = Math.round(Math.max(0, seconds) * 100)
  const [whole, part] = [Math.floor(hundredths / 100), hundredths % 100]
  return { hours: Math.floor(whole / 3600), minutes: Math.floor(whole / 60) % 60, seconds: whole % 60, part }
}
const two = (value: number) => String(value).padStart(2, '0')
const MOST_HOURS = 9999

/** @returns HHHH:MM:SS.SS @see SCORM 1.2 Run-Time Environment, §3.4.1, CMITimespan */
export function scormTimespan(length: number): string {
  const { hours, minutes, seconds, part } = split(length)
  return `${two(Math.min(hours, MOST_HOURS))}:${two(minutes)}:${two(seconds)}.${two(part)}`
}

/** @returns PT1H2M3.45S @see ISO 8601; SCORM 2004 4th edition, RTE §4.1.1.7, timeinterval (second,10,2); xAPI 1.0.3, part 2, §4.6 */
export function isoDuration(length: number): string {
  const { hours, minutes, seconds, part } = split(length)
  const decimals = part === 0 ? '' : `.${two(part)}`
  const parts = [hours > 0 ? `${hours}H` : '', minutes > 0 ? `${minutes}M` : '']
  if (seconds > 0 || part > 0 || (hours === 0 && minutes === 0)) parts.push(`${seconds}${decimals}S`)
  return `PT${parts.join('')}`
}
