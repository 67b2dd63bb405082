/** WebVTT, written so that every reader agrees. */
import { escapeCueText, parseCueText, writeCueText } from './cue-text.ts'
import { type Region, writeRegion } from './settings.ts'
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

/** What stands before the cues of a file. */
export interface VttHead {
  regions: readonly Region[]
  /** Style sheets, as they stand in the file. */
  styles: readonly string[]
}

/**
 * @param cues they are sorted by start; those without text are left out
 * @param head without one, identifiers are numbers in order; with one, cues keep theirs, as what stands in it may speak of them
 * @returns a whole WebVTT file
 */
export function writeWebVtt(cues: readonly WrittenCue[], head?: VttHead): string {
  const before = [
    ...(head?.styles ?? []).map((style) => `STYLE\n${style}\n`),
    ...(head?.regions ?? []).filter(({ id }) => id !== '').map((region) => `REGION\n${writeRegion(region)}\n`),
  ]
  const blocks = [...cues]
    .map((cue) => ({ ...cue, body: cue.markup ? writeCueText(parseCueText(cue.markup)).trim() : escapeCueText(cue.text) }))
    .filter((cue) => cue.body !== '')
    .sort((a, b) => a.start - b.start || a.end - b.end)
    .map((cue, i) => {
      const settings = cue.settings ? ` ${cue.settings}` : ''
      const id = head ? (cue.id ?? '') : String(i + 1)
      return `${id && `${id}\n`}${timestamp(cue.start)} --> ${timestamp(cue.end)}${settings}\n${cue.body}\n`
    })
  return ['WEBVTT\n', ...before, ...blocks].join('\n')
}
