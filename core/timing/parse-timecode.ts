/** Moments and lengths as people type them: `0:06, 0:11, 1:02.5`. */
import { type Message, message } from '#core/words/say.ts'

export interface TypedTimes {
  /** Seconds, in the order typed. */
  seconds: number[]
  /** What is wrong when they cannot be used. */
  problem: Message | null
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
      return {
        seconds,
        problem: message('“{word}” is not a time. Write times like 0:06 or 1:02.5, with a space between them.', { word }),
      }
    seconds.push(value)
  }
  return { seconds, problem: null }
}

/**
 * What is wrong with moments of change for so many slides.
 *
 * @param moments seconds of the recording, one for each change: one fewer than slides
 * @param end length of the recording, seconds
 * @returns what is wrong, or null when they can be used
 */
export function momentsProblem(moments: readonly number[], slides: number, end: number): Message | null {
  const wanted = slides - 1
  for (const [i, moment] of moments.entries()) {
    const before = moments[i - 1] ?? 0
    if (moment <= before)
      return before === 0
        ? message('Moment {number} ({seconds} s) does not come after the start. Put the moments in order.', {
            number: i + 1,
            seconds: moment,
          })
        : message('Moment {number} ({seconds} s) does not come after moment {earlier} ({before} s). Put the moments in order.', {
            number: i + 1,
            seconds: moment,
            earlier: i,
            before,
          })
    if (moment >= end)
      return message('Moment {number} ({seconds} s) lies past the end of the recording ({end} s).', {
        number: i + 1,
        seconds: moment,
        end: Math.round(end * 10) / 10,
      })
  }
  const counted = { slides, wanted, given: moments.length }
  if (moments.length < wanted)
    return message(
      '{slides} slides change {wanted, plural, one {# time} other {# times}}; there {given, plural, one {is #} other {are #}}. Add {missing}, or choose fewer slides.',
      { ...counted, missing: wanted - moments.length },
    )
  if (moments.length > wanted)
    return message(
      '{slides} slides change {wanted, plural, one {# time} other {# times}}; there {given, plural, one {is #} other {are #}}. Take {surplus} away, or choose more slides.',
      { ...counted, surplus: moments.length - wanted },
    )
  return null
}
