/** WebVTT, read by the standard's own algorithm. */
import { type Message, message } from '#core/words/say.ts'
import { cueTextFaults } from './cue-text.ts'
import { type CueSettings, isSpace, parseRegion, parseSettings, type Region } from './settings.ts'
import { collectTimestamp } from './timestamp.ts'

export interface VttCue {
  id: string
  /** Seconds. */
  start: number
  end: number
  /** Cue text, with its tags and escapes as they stand in the file. */
  text: string
  /** Cue settings as they stand in the file, such as `line:0 align:start`. */
  settings: string
}

export interface ParsedCue extends VttCue {
  /** What the settings say, malformed ones passed over. */
  placed: CueSettings
  /** Line of the file, counted from 1, on which its times stand. */
  line: number
}

export interface VttProblem {
  /** Counted from 1. */
  line: number
  message: Message
}

export interface WebVtt {
  /** False when the file does not begin with WEBVTT: then it is none, and there are no cues. */
  signed: boolean
  /** In file order, also such as end before they start. */
  cues: ParsedCue[]
  regions: Region[]
  /** Style sheets, as they stand in the file. */
  styles: string[]
  problems: VttProblem[]
}

const TIMES = message('The times cannot be read. They are written like 00:01.000 --> 00:04.000.')
const STRAY = message('This text belongs to no cue: there is no line with times above it.')

function skipSpaces(line: string, from: number): number {
  let at = from
  while (isSpace(line[at])) at++
  return at
}

/** "Collect WebVTT cue timings and settings", W3C WebVTT §6.3; null when the line is malformed. */
function collectTimings(line: string): Pick<VttCue, 'start' | 'end' | 'settings'> | null {
  const start = collectTimestamp(line, skipSpaces(line, 0))
  if (!start) return null
  const arrow = skipSpaces(line, start.at)
  if (!line.startsWith('-->', arrow)) return null
  const end = collectTimestamp(line, skipSpaces(line, arrow + 3))
  if (!end) return null
  return { start: start.seconds, end: end.seconds, settings: line.slice(end.at).trim() }
}

/** What is wrong with a cue that was read all the same. */
function cueProblems(cue: ParsedCue, before: ParsedCue | undefined, ignored: readonly string[]): VttProblem[] {
  const messages = [
    ...(cue.end <= cue.start ? [message('This cue ends before it starts.')] : []),
    ...(before && cue.start < before.start
      ? [message('This cue starts before the one above it; cues stand in the order of their starts.')]
      : []),
    ...cueTextFaults(cue.text),
    ...ignored.map((setting) =>
      message('The setting “{setting}” is not one of WebVTT, so it is passed over.', { setting: setting.slice(0, 40) }),
    ),
  ]
  return messages.map((problem) => ({ line: cue.line, message: problem }))
}

/**
 * Reads a WebVTT file. Cues that are good are kept, whatever is wrong elsewhere. Time and memory grow with the length of the file.
 *
 * @param file the decoded text; a byte-order mark is allowed
 * @see W3C WebVTT: The Web Video Text Tracks Format, §6.1 ("WebVTT parser algorithm", "collect a WebVTT block")
 */
export function parseWebVtt(file: string): WebVtt {
  const lines = file
    .replaceAll('\0', '\uFFFD')
    .replace(/^\uFEFF/, '')
    .replace(/\r\n?/g, '\n')
    .split('\n')
  // a line end at the very end begins no further line
  if (lines.at(-1) === '') lines.pop()
  const read: WebVtt = { signed: false, cues: [], regions: [], styles: [], problems: [] }
  if (!/^WEBVTT([ \t]|$)/.test(lines[0] ?? '')) {
    read.problems.push({ line: 1, message: message('The first line is not WEBVTT, so this is not a WebVTT file.') })
    return read
  }
  read.signed = true
  let at = 1
  if (lines[1]) read.problems.push({ line: 2, message: message('The line after WEBVTT must be empty.') })
  // the header reaches to the first empty line, or to a line with an arrow, which already belongs to a block
  while (at < lines.length && lines[at] !== '' && !lines[at]!.includes('-->')) at++
  while (at < lines.length) {
    if (lines[at] === '') at++
    else at = collectBlock(lines, at, read)
  }
  return read
}

/** "Collect a WebVTT block", not in the header. @returns the line after it */
function collectBlock(lines: readonly string[], from: number, read: WebVtt): number {
  let at = from
  let arrowAt: number | null = null
  let cue: ParsedCue | null = null
  let ignored: string[] = []
  let kind: 'STYLE' | 'REGION' | null = null
  let buffer: string[] = []
  for (; at < lines.length; at++) {
    const line = lines[at]!
    const count = at - from + 1
    if (line.includes('-->')) {
      if (count > 1 && !(count === 2 && arrowAt === null)) break
      arrowAt = at
      const timings = collectTimings(line)
      if (timings) {
        const parsed = parseSettings(
          timings.settings,
          read.regions.map((region) => region.id),
        )
        ignored = parsed.ignored
        cue = { id: buffer.join('\n'), ...timings, placed: parsed.settings, text: '', line: at + 1 }
        buffer = []
      }
    } else if (line === '') {
      break
    } else {
      // style sheets and regions stand before the first cue
      const keyword = count === 2 && arrowAt === null && read.cues.length === 0 && /^(STYLE|REGION)[ \t\f]*$/.exec(buffer[0]!)
      if (keyword) {
        kind = keyword[1] as 'STYLE' | 'REGION'
        buffer = []
      }
      buffer.push(line)
    }
  }
  const text = buffer.join('\n')
  if (cue) {
    cue.text = text
    read.problems.push(...cueProblems(cue, read.cues.at(-1), ignored))
    read.cues.push(cue)
  } else if (kind === 'STYLE') read.styles.push(text)
  else if (kind === 'REGION') read.regions.push(parseRegion(text))
  else if (arrowAt !== null) read.problems.push({ line: arrowAt + 1, message: TIMES })
  else if (!/^(NOTE([ \t]|$)|STYLE[ \t]*$|REGION[ \t]*$)/.test(lines[from]!))
    read.problems.push({ line: from + 1, message: STRAY })
  return at
}
