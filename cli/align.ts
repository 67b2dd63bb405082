/** `lectern align`: captions a recording from its script. */

import { readFile } from 'node:fs/promises'
import { basename } from 'node:path'
import { parseArgs } from 'node:util'
import { usualCleaning } from '#core/audio/render/render.ts'
import { findHum } from '#core/audio/repair/hum.ts'
import { type Alignment, align as alignWords } from '#core/captions/align/align.ts'
import { extractFeatures } from '#core/captions/align/extract-features.ts'
import { writeSubRip } from '#core/captions/formats/subrip.ts'
import { writeWebVtt } from '#core/captions/formats/webvtt/write.ts'
import { LINE_CHARACTERS } from '#core/captions/generate/break-lines.ts'
import { makeCues } from '#core/captions/generate/make-cues.ts'
import { heardSounds, surelyNoWords } from '#core/captions/spoken/heard-sounds.ts'
import { Language } from '#core/language-tag.ts'
import { sentences } from '#core/script/sentences.ts'
import { relatedVoice } from '#core/script/timed-languages.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { figure } from '#core/words/figures.ts'
import { languageName } from '#core/words/language-name.ts'
import { message, say } from '#core/words/say.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { ffmpegAt } from '#server/media/ffmpeg.ts'
import { readSound } from '#server/media/read-sound.ts'
import { openSynthesiser } from '#server/speech/synthesiser.ts'
import { endingOf, print, printAside, readyOutput, STDOUT, writeText } from './io/output.ts'
import { orUsage, Usage, usageOf } from './io/usage.ts'
import { tellOfSound } from './told-of-sound.ts'

const USAGE = usageOf('lectern align AUDIO SCRIPT.txt -o OUT.vtt|OUT.srt|- [--lang en] [--lines] [--overwrite] [--json]')
const ENDINGS = ['vtt', 'srt'] as const

async function readScript(path: string, language: string, lines: boolean): Promise<string[]> {
  const name = basename(path)
  const bytes = await readFile(path).catch(() => {
    throw new UserFacingError(message('There is no file “{name}”. Check its name and folder.', { name }), 404)
  })
  let text: string
  try {
    text = new TextDecoder('utf-8', { fatal: true }).decode(bytes)
  } catch {
    throw new UserFacingError(message('“{name}” is not UTF-8 text. Save it as UTF-8.', { name }), 415)
  }
  const said = lines
    ? text
        .split('\n')
        .map((line) => line.trim())
        .filter((line) => /[\p{L}\p{N}]/u.test(line))
    : sentences(text, language)
  if (said.length === 0) throw new UserFacingError(message('“{name}” has no words in it.', { name }), 422)
  return said
}

function tell(alignment: Alignment, output: string | undefined) {
  const needsReview = alignment.sentences.filter((s) => s.needsReview)
  const skipped = alignment.sentences.filter((s) => s.skipped)
  // what goes to standard output is the captions
  const told = output === STDOUT ? printAside : print
  const all = alignment.sentences.length
  const found = all - skipped.length
  told(
    output
      ? say('{found} of {all, plural, one {# sentence} other {# sentences}} found; captions in {output}', { found, all, output })
      : say('{found} of {all, plural, one {# sentence} other {# sentences}} found', { found, all }),
  )
  const repeated = alignment.sentences.filter((one) => one.spans.length > 1)
  for (const { text } of skipped) told(`  ${say('not said: {text}', { text })}`)
  for (const { text } of needsReview) told(`  ${say('please check: {text}', { text })}`)
  for (const { text, spans } of repeated)
    told(`  ${say('said {times, plural, one {# time} other {# times}}: {text}', { times: spans.length, text })}`)
  for (const { start, end } of alignment.offScript)
    told(`  ${say('not in the script: {start} to {end} s', { start: figure(start, 1), end: figure(end, 1) })}`)
}

export async function align(args: string[]) {
  const { values, positionals } = orUsage(
    args,
    () =>
      parseArgs({
        args,
        allowPositionals: true,
        options: {
          output: { type: 'string', short: 'o' },
          lang: { type: 'string', default: 'en' },
          lines: { type: 'boolean', default: false },
          overwrite: { type: 'boolean', default: false },
          json: { type: 'boolean', default: false },
        },
      }),
    USAGE,
  )
  const [audio, script, ...more] = positionals
  if (!audio || !script || more.length > 0 || (!values.output && !values.json)) throw new Usage(USAGE)
  const language = Language.safeParse(values.lang)
  if (!language.success)
    throw new Usage(`${say('“{tag}” is not a language tag; write en or pt-BR.', { tag: String(values.lang) })}\n${USAGE}`)
  const { output } = values
  if (output === STDOUT && values.json)
    throw new Usage(`${say('Captions and --json cannot both go to standard output.')}\n${USAGE}`)
  const ending = output === undefined ? null : endingOf(output, ENDINGS, USAGE)
  if (output !== undefined) await readyOutput(output, [audio, script], values.overwrite)
  const said = await readScript(script, language.data, values.lines)
  const sound = await readSound(ffmpegAt(process.env.LECTERN_FFMPEG ?? 'ffmpeg'), audio)
  tellOfSound(sound)
  const { samples } = sound
  const synthesiser = await openSynthesiser(language.data)
  if (!synthesiser)
    throw new UserFacingError(
      message('There is no voice for “{language}”, so its words cannot be found in a recording.', { language: language.data }),
      422,
    )
  const related = relatedVoice(language.data)
  if (related) {
    const names = { language: languageName(language.data), related: languageName(related) }
    const told = say(
      'There is no voice for {language}: the script was read by the voice of a related language, {related}. Check the times.',
      names,
    )
    process.stderr.write(`${told}\n`)
  }
  const heard = extractFeatures(samples, usualCleaning(), findHum(samples))
  const alignment = alignWords(heard, said, synthesiser, surelyNoWords(heardSounds(heard)))
  if (output !== undefined) {
    const cues = makeCues(
      {
        script: '',
        language: language.data,
        lineCharacters: LINE_CHARACTERS.usual,
        takeId: '',
        seconds: toSeconds(samples.length),
        speech: [],
        alignment,
        unsure: related !== null,
      },
      [],
    )
    await writeText(output, ending === 'srt' ? writeSubRip(cues) : writeWebVtt(cues))
  }
  if (values.json) print(JSON.stringify(alignment))
  else tell(alignment, output)
}
