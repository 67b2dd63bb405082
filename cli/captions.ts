/** `lectern captions check` and `lectern captions convert`: what a caption file holds and whether it is right; WebVTT and SubRip. */

import { readFile } from 'node:fs/promises'
import { basename } from 'node:path'
import { parseArgs } from 'node:util'
import { checkCues } from '#core/captions/checks/check-cues.ts'
import { writeSubRip } from '#core/captions/formats/subrip.ts'
import { plainCueText } from '#core/captions/formats/webvtt/cue-text.ts'
import type { VttProblem } from '#core/captions/formats/webvtt/parse.ts'
import { writeSettings } from '#core/captions/formats/webvtt/settings.ts'
import { writeWebVtt } from '#core/captions/formats/webvtt/write.ts'
import { LINE_CHARACTERS } from '#core/captions/generate/break-lines.ts'
import { message, say } from '#core/words/say.ts'
import { readCaptionFile } from '#server/domain/caption-tracks/caption-files.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { endingOf, readyOutput, writeText } from './io/output.ts'
import { orUsage, Usage, usageOf } from './io/usage.ts'

const USAGE = [
  usageOf('lectern captions check FILE [--json]'),
  usageOf('lectern captions convert IN OUT.vtt|OUT.srt [--overwrite]'),
].join('\n')

async function read(path: string) {
  const name = basename(path)
  const bytes = await readFile(path).catch(() => {
    throw new UserFacingError(message('There is no file “{name}”. Check its name and folder.', { name }), 404)
  })
  return readCaptionFile(name, bytes)
}

/** Settings by name, as they stand in the file. */
function settingsOf(text: string): Record<string, string> {
  return Object.fromEntries(
    text
      .split(/[ \t]+/)
      .filter((setting) => /^[^:]+:.+$/.test(setting))
      .map((setting) => [setting.slice(0, setting.indexOf(':')), setting.slice(setting.indexOf(':') + 1)]),
  )
}

const inWords = ({ line, message }: VttProblem) => ({ line, message: say(message) })

async function check(path: string, json: boolean) {
  const { format, cues, problems } = await read(path)
  const lineOf = new Map(cues.map((cue, i) => [String(i), cue.line]))
  const plain = cues.map((cue, i) => ({ ...cue, id: String(i), text: plainCueText(cue.text), needsReview: false }))
  const findings = checkCues(plain, LINE_CHARACTERS.most).map((f) => ({ line: lineOf.get(f.cueId)!, message: `${f.finding}.` }))
  const valid = problems.length === 0
  if (json) {
    const listed = cues.map(({ id, start, end, text, settings }) => ({ id, start, end, text, settings: settingsOf(settings) }))
    process.stdout.write(`${JSON.stringify({ format, cues: listed, valid, problems: problems.map(inWords), findings })}\n`)
    return valid ? 0 : 1
  }
  process.stdout.write(
    `${valid ? say('{captions, plural, one {# caption} other {# captions}}, nothing wrong with the file', { captions: cues.length }) : say('{captions, plural, one {# caption} other {# captions}}, {places, plural, one {# place} other {# places}} wrong', { captions: cues.length, places: problems.length })}\n`,
  )
  for (const { line, message } of [...problems.map(inWords), ...findings].sort((a, b) => a.line - b.line))
    process.stdout.write(`  ${say('line {line}: {message}', { line, message })}\n`)
  return valid ? 0 : 1
}

async function convert(from: string, to: string, overwrite: boolean) {
  const format = endingOf(to, ['vtt', 'srt'], USAGE)
  await readyOutput(to, [from], overwrite)
  const { format: was, cues, head, problems } = await read(from)
  const usable = cues
    .filter((cue) => cue.end > cue.start)
    .map((cue) => ({
      ...cue,
      markup: cue.text,
      text: plainCueText(cue.text),
      settings: writeSettings(cue.placed, 'with region'),
    }))
  await writeText(to, format === 'srt' ? writeSubRip(usable) : writeWebVtt(usable, was === 'vtt' ? head : undefined))
  const empty = cues
    .filter((cue) => cue.end <= cue.start)
    .map(({ line }) => ({ line, message: say('It ends before it begins.') }))
  const left = [...problems.map(inWords), ...empty].sort((a, b) => a.line - b.line)
  if (left.length === 0) return 0
  process.stderr.write(
    `${say('“{name}” is not right in {places, plural, one {# place} other {# places}}; the rest was written.', { name: basename(from), places: left.length })}\n`,
  )
  for (const { line, message } of left) process.stderr.write(`  ${say('line {line}: {message}', { line, message })}\n`)
  return 1
}

export async function captions(args: string[]) {
  const { values, positionals } = orUsage(
    args,
    () =>
      parseArgs({
        args,
        allowPositionals: true,
        options: { json: { type: 'boolean', default: false }, overwrite: { type: 'boolean', default: false } },
      }),
    USAGE,
  )
  const [act, first, second, ...more] = positionals
  if (act === 'check' && first && !second) return await check(first, values.json)
  if (act === 'convert' && first && second && more.length === 0) return await convert(first, second, values.overwrite)
  throw new Usage(USAGE)
}
