/** WebVTT, written so that every reader agrees. */
import { escapeCueText, parseCueText, writeCueText } from './cue-text.ts'
import { timestamp } from './timestamp.ts'

export interface WrittenCue {
  id?: string
  /** Seconds. */
  start: number
  end: number
  /** As people read it. */
  text: string
  /** Cue text that says the same with tags; null for none. */
  markup?: string | null
  /** As they stand in a file. */
  settings: string
}

/**
 * @param cues they are sorted by start; those without text are left out
 * @returns a whole WebVTT file; identifiers are numbers in order
 */
export function writeWebVtt(cues: readonly WrittenCue[]): string {
  const blocks = [...cues]
    .map((cue) => ({ ...cue, body: cue.markup ? writeCueText(parseCueText(cue.markup)).trim() : escapeCueText(cue.text) }))
    .filter((cue) => cue.body !== '')
    .sort((a, b) => a.start - b.start || a.end - b.end)
    .map((cue, i) => {
      const settings = cue.settings ? ` ${cue.settings}` : ''
      return `${i + 1}\n${timestamp(cue.start)} --> ${timestamp(cue.end)}${settings}\n${cue.body}\n`
    })
  return ['WEBVTT\n', ...blocks].join('\n')
}
