/** WebVTT, read by the standard's own algorithm and written so that every reader agrees. */

export interface VttCue {
  id: string
  /** Seconds. */
  start: number
  end: number
  text: string
  /** Cue settings as they stand in the file, such as `line:0 align:start`. */
  settings: string
}

/** A cue and the line of the file, counted from 1, on which its times stand. */
export type ParsedCue = VttCue & { line: number }

export interface VttProblem {
  /** Counted from 1. */
  line: number
  message: string
}

const isDigit = (c: string | undefined) => c !== undefined && c >= '0' && c <= '9'

/**
 * "Collect a WebVTT timestamp".
 *
 * @returns seconds and the position after it; null when there is none
 * @see W3C WebVTT, §6.3
 */
function collectTimestamp(line: string, from: number): { seconds: number; at: number } | null {
  let at = from
  const digits = () => {
    const start = at
    while (isDigit(line[at])) at++
    return line.slice(start, at)
  }
  const first = digits()
  if (first === '') return null
  const hasHours = first.length !== 2 || Number(first) > 59
  if (line[at++] !== ':') return null
  const second = digits()
  if (second.length !== 2) return null
  let [hours, minutes, seconds] = [0, Number(first), Number(second)]
  if (hasHours || line[at] === ':') {
    if (line[at++] !== ':') return null
    const third = digits()
    if (third.length !== 2) return null
    ;[hours, minutes, seconds] = [Number(first), Number(second), Number(third)]
  }
  if (line[at++] !== '.') return null
  const fraction = digits()
  if (fraction.length !== 3 || minutes > 59 || seconds > 59) return null
  // whole milliseconds first: the sum of a second and a fraction would not be the number that was written
  return { seconds: ((hours * 60 + minutes) * 60_000 + seconds * 1000 + Number(fraction)) / 1000, at }
}

const skipSpaces = (line: string, from: number) => {
  let at = from
  while (line[at] === ' ' || line[at] === '\t' || line[at] === '\f') at++
  return at
}

/** "Collect WebVTT cue timings and settings", W3C WebVTT §6.3; null when the line is malformed. */
function collectTimings(line: string): Pick<VttCue, 'start' | 'end' | 'settings'> | null {
  const start = collectTimestamp(line, skipSpaces(line, 0))
  if (!start) return null
  const arrow = skipSpaces(line, start.at)
  if (line.slice(arrow, arrow + 3) !== '-->') return null
  const end = collectTimestamp(line, skipSpaces(line, arrow + 3))
  if (!end) return null
  return { start: start.seconds, end: end.seconds, settings: line.slice(end.at).trim() }
}

/**
 * Reads a WebVTT file. Cues that are good are kept, whatever is wrong elsewhere.
 *
 * @param file the decoded text; a byte-order mark is allowed
 * @returns cues in file order and, by line, what was wrong; `signed` is false when the file does not begin with WEBVTT, and then there are no cues
 * @see W3C WebVTT: The Web Video Text Tracks Format, §6.1 (file parsing) and §6.3 (timings)
 */
export function parseWebVtt(file: string): { signed: boolean; cues: ParsedCue[]; problems: VttProblem[] } {
  const text = file.replaceAll('\0', '\uFFFD').replace(/^\uFEFF/, '')
  const lines = text.replace(/\r\n?/g, '\n').split('\n')
  const signature = lines[0] ?? ''
  if (!(signature === 'WEBVTT' || signature.startsWith('WEBVTT ') || signature.startsWith('WEBVTT\t'))) {
    return {
      signed: false,
      cues: [],
      problems: [{ line: 1, message: 'The first line is not WEBVTT, so this is not a WebVTT file.' }],
    }
  }
  const cues: ParsedCue[] = []
  const problems: VttProblem[] = []
  let at = 1
  // the header reaches to the first empty line, or to a line with an arrow, which already belongs to a cue
  while (at < lines.length && lines[at] !== '' && !lines[at]!.includes('-->')) at++
  while (at < lines.length) {
    if (lines[at] === '') {
      at++
      continue
    }
    const block = at
    let id = ''
    if (!lines[at]!.includes('-->')) {
      if (lines[at + 1]?.includes('-->')) {
        id = lines[at]!
        at++
      } else {
        const known = /^(NOTE|STYLE|REGION)([ \t]|$)/.test(lines[at]!)
        if (!known)
          problems.push({ line: block + 1, message: 'This text belongs to no cue: there is no line with times above it.' })
        while (at < lines.length && lines[at] !== '' && !lines[at]!.includes('-->')) at++
        continue
      }
    }
    const timings = collectTimings(lines[at]!)
    const timingLine = at + 1
    at++
    const body = at
    while (at < lines.length && lines[at] !== '' && !lines[at]!.includes('-->')) at++
    if (!timings) {
      problems.push({ line: timingLine, message: 'The times cannot be read. They are written like 00:01.000 --> 00:04.000.' })
    } else if (timings.end <= timings.start) {
      problems.push({ line: timingLine, message: 'This cue ends before it starts.' })
    } else {
      cues.push({ id, ...timings, text: lines.slice(body, at).join('\n'), line: timingLine })
    }
  }
  return { signed: true, cues, problems }
}

/**
 * @param seconds 0 and above
 * @returns `hh:mm:ss.mmm`, with more digits of hours where needed
 */
export function timestamp(seconds: number): string {
  const ms = Math.round(seconds * 1000)
  const two = (n: number) => String(n).padStart(2, '0')
  const hours = Math.floor(ms / 3_600_000)
  return `${two(hours)}:${two(Math.floor(ms / 60_000) % 60)}:${two(Math.floor(ms / 1000) % 60)}.${String(ms % 1000).padStart(3, '0')}`
}

/** Plain text as cue text: what would be read as markup is escaped, and no empty line ends the cue early. */
export function escapeCueText(text: string): string {
  return text
    .replaceAll('&', '&amp;')
    .replaceAll('<', '&lt;')
    .replaceAll('>', '&gt;')
    .replace(/\n\s*\n+/g, '\n')
    .trim()
}

/** Cue text as a person reads it: tags away, escapes resolved. */
export function plainCueText(cueText: string): string {
  const names: Record<string, string> = { amp: '&', lt: '<', gt: '>', nbsp: '\u00A0', lrm: '\u200E', rlm: '\u200F' }
  return cueText.replace(/<[^>]*>/g, '').replace(/&(amp|lt|gt|nbsp|lrm|rlm);/g, (_, name: string) => names[name]!)
}

/**
 * @param cues texts are plain; they are sorted by start
 * @returns a whole WebVTT file
 */
export function writeWebVtt(cues: readonly Pick<VttCue, 'start' | 'end' | 'text' | 'settings'>[]): string {
  const blocks = [...cues]
    .sort((a, b) => a.start - b.start || a.end - b.end)
    .map((cue, i) => {
      const settings = cue.settings ? ` ${cue.settings}` : ''
      return `${i + 1}\n${timestamp(cue.start)} --> ${timestamp(cue.end)}${settings}\n${escapeCueText(cue.text)}\n`
    })
  return ['WEBVTT\n', ...blocks].join('\n')
}
