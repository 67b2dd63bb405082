/**
 * SubRip (.srt): blocks of a number, a line of times with commas, and text. There is no standard; this reads what files in the
 * wild hold (common practice, no published source).
 */
import { message } from '#core/words/say.ts'
import { parseCueText, writeCueText } from './webvtt/cue-text.ts'
import type { ParsedCue, VttProblem } from './webvtt/parse.ts'
import { DEFAULT_SETTINGS } from './webvtt/settings.ts'
import { timestamp } from './webvtt/timestamp.ts'

const TIMES =
  /^\s*(?:(\d{1,4}):)?(\d{1,2}):(\d{1,2})[,.](\d{1,3})\s*-->\s*(?:(\d{1,4}):)?(\d{1,2}):(\d{1,2})[,.](\d{1,3})(?:\s.*)?$/

function seconds(hours: string | undefined, minutes: string, secs: string, fraction: string): number {
  return ((Number(hours ?? 0) * 60 + Number(minutes)) * 60_000 + Number(secs) * 1000 + Number(fraction.padEnd(3, '0'))) / 1000
}

/** Tags that such files borrow from HTML, as cue text; others are taken away. */
function toCueText(text: string): string {
  const marked = text
    .replace(/\{\\an?\d+\}/g, '')
    .replace(/&/g, '&amp;')
    .replace(/<(\/?)([biu])>/gi, (_, slash: string, tag: string) => `<${slash}${tag.toLowerCase()}>`)
    .replace(/<\/?font[^>]*>/gi, '')
    .replace(/<(?!\/?[biu]>)/g, '&lt;')
  return writeCueText(parseCueText(marked))
}

/**
 * @param file decoded text
 * @returns cues in file order with their text as WebVTT cue text; by line, what could not be used
 */
export function parseSubRip(file: string): { cues: ParsedCue[]; problems: VttProblem[] } {
  const lines = file
    .replace(/^\uFEFF/, '')
    .replaceAll('\0', '\uFFFD')
    .replace(/\r\n?/g, '\n')
    .split('\n')
  const cues: ParsedCue[] = []
  const problems: VttProblem[] = []
  const isEmpty = (i: number) => (lines[i] ?? '').trim() === ''
  const times = (i: number) => TIMES.exec(lines[i] ?? '')
  for (let at = 0; at < lines.length; ) {
    if (isEmpty(at)) {
      at++
      continue
    }
    const number = /^\s*\d+\s*$/.test(lines[at]!) && lines[at + 1]?.includes('-->')
    const timing = at + (number ? 1 : 0)
    const found = times(timing)
    if (!found) {
      const problem = lines[timing]!.includes('-->')
        ? message('The times cannot be read. They are written like 00:00:01,000 --> 00:00:04,000.')
        : message('This text belongs to no caption: there is no line with times above it.')
      problems.push({ line: timing + 1, message: problem })
      at = timing + 1
      while (at < lines.length && !isEmpty(at)) at++
      continue
    }
    const body = timing + 1
    at = body
    while (at < lines.length && !isEmpty(at) && !(/^\s*\d+\s*$/.test(lines[at]!) && times(at + 1))) at++
    const start = seconds(found[1], found[2]!, found[3]!, found[4]!)
    const end = seconds(found[5], found[6]!, found[7]!, found[8]!)
    if (end <= start) problems.push({ line: timing + 1, message: message('This caption ends before it starts.') })
    const text = toCueText(lines.slice(body, at).join('\n').trim())
    const id = number ? lines[timing - 1]!.trim() : ''
    cues.push({ id, start, end, text, settings: '', placed: { ...DEFAULT_SETTINGS }, line: timing + 1 })
  }
  return { cues, problems }
}

/** @param cues with plain text; they are sorted by start, those without text are left out */
export function writeSubRip(cues: readonly { start: number; end: number; text: string; markup?: string | null }[]): string {
  return [...cues]
    .filter((cue) => cue.text.trim() !== '')
    .sort((a, b) => a.start - b.start || a.end - b.end)
    .map((cue, i) => `${i + 1}\n${timestamp(cue.start, ',')} --> ${timestamp(cue.end, ',')}\n${subRipText(cue)}\n`)
    .join('\n')
}

/** Bold, italic and underline stay; what readers of such files do not know is taken away. */
function subRipText({ text, markup }: { text: string; markup?: string | null }): string {
  const plain = text.replace(/\n\s*\n+/g, '\n').trim()
  if (!markup) return plain
  const known = writeCueText(parseCueText(markup.replace(/<\/?(?!\/?[biu]>)[^>]*>/g, '')))
  return known.replaceAll('&lt;', '<').replaceAll('&gt;', '>').replaceAll('&amp;', '&')
}
