/** Moments and lengths as people type them: `0:06, 0:11, 1:02.5`. */

export interface TypedTimes {
  /** Seconds, in the order typed. */
  seconds: number[]
  /** A sentence when they cannot be used. */
  problem: string | null
}

/** Seconds of one typed time: `62`, `62.5`, `1:02`, `1:02.5`, `1:00:02`; null when it is none. A comma may stand for the decimal point. */
export function parseTime(text: string): number | null {
  const match = /^(?:(\d+):)?(?:(\d{1,3}):)?(\d+(?:[.,]\d+)?)\s*s?$/.exec(text.trim())
  if (!match) return null
  const [hours, minutes] = match[2] === undefined ? ['0', match[1] ?? '0'] : [match[1]!, match[2]]
  const seconds = Number(match[3]!.replace(',', '.'))
  if (match[1] !== undefined && seconds >= 60) return null
  if (match[2] !== undefined && Number(match[2]) >= 60) return null
  return Number(hours) * 3600 + Number(minutes) * 60 + seconds
}

/** A list of times, divided by commas followed by a space, semicolons, or white space. */
export function parseTimes(text: string): TypedTimes {
  const words = text
    .split(/[;\s]+|,(?=\s|$)|,(?=\d+:)/)
    .map((word) => word.replace(/,$/, ''))
    .filter(Boolean)
    // "6,11,19": a comma between whole numbers divides, since nobody types three decimal commas in a row
    .flatMap((word) => (/^\d+(,\d+){2,}$/.test(word) ? word.split(',') : [word]))
  const seconds: number[] = []
  for (const word of words) {
    const value = parseTime(word)
    if (value === null)
      return { seconds, problem: `“${word}” is not a time. Write times like 0:06 or 1:02.5, with a space between them.` }
    seconds.push(value)
  }
  return { seconds, problem: null }
}

/**
 * What is wrong with moments of change for so many slides.
 *
 * @param moments seconds of the recording, one for each change: one fewer than slides
 * @param end length of the recording, seconds
 * @returns a sentence, or null when they can be used
 */
export function momentsProblem(moments: readonly number[], slides: number, end: number): string | null {
  const wanted = slides - 1
  for (const [i, moment] of moments.entries()) {
    const before = moments[i - 1] ?? 0
    if (moment <= before)
      return `Moment ${i + 1} (${moment} s) does not come after ${before === 0 ? 'the start' : `moment ${i} (${before} s)`}. Put the moments in order.`
    if (moment >= end) return `Moment ${i + 1} (${moment} s) lies past the end of the recording (${Math.round(end * 10) / 10} s).`
  }
  if (moments.length < wanted)
    return `${slides} slides change ${wanted} ${wanted === 1 ? 'time' : 'times'}; there ${moments.length === 1 ? 'is' : 'are'} ${moments.length}. Add ${wanted - moments.length}, or choose fewer slides.`
  if (moments.length > wanted)
    return `${slides} slides change ${wanted} ${wanted === 1 ? 'time' : 'times'}; there are ${moments.length}. Take ${moments.length - wanted} away, or choose more slides.`
  return null
}
