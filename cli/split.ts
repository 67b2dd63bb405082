/** `lectern split`: where a long recording changes slide. */

import { readFile } from 'node:fs/promises'
import { parseArgs } from 'node:util'
import { speechIn } from '#core/audio/analysis/detect-streaming.ts'
import { scriptsOf } from '#core/edition/timings.ts'
import { countWords } from '#core/script/sentences.ts'
import { toSamples, toSeconds } from '#core/timing/clocks.ts'
import { proposeBoundaries, type SplitHint } from '#core/timing/division/split.ts'
import { figure } from '#core/words/figures.ts'
import { message, say } from '#core/words/say.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { ffmpegAt } from '#server/media/ffmpeg.ts'
import { readSound } from '#server/media/read-sound.ts'
import { orUsage, Usage, usageOf } from './io/usage.ts'
import { tellOfSound } from './told-of-sound.ts'

const USAGE = usageOf('lectern split AUDIO (--slides N | --scripts FILE | --marks 6,11,19) [--lang en] [--json]')

async function hintFrom(values: { slides?: string; scripts?: string; marks?: string; lang: string }): Promise<SplitHint> {
  if (values.marks !== undefined) {
    const marks = values.marks.split(',').map(Number)
    if (marks.some((mark, i) => !(mark > (marks[i - 1] ?? 0))))
      throw new Usage(`${say('Marks are seconds, each later than the one before.')}\n${USAGE}`)
    return { from: 'marks', marks: marks.map((mark) => toSamples(mark)) }
  }
  if (values.scripts !== undefined) {
    const text = await readFile(values.scripts, 'utf8').catch(() => {
      throw new UserFacingError(message('There is no file “{name}”. Check its name and folder.', { name: values.scripts! }), 404)
    })
    return { from: 'scripts', weights: scriptsOf(text).map((part) => countWords(part.script, values.lang)) }
  }
  const slides = Number(values.slides)
  if (!Number.isInteger(slides) || slides < 1) throw new Usage(USAGE)
  return { from: 'pauses', slides }
}

export async function split(args: string[]) {
  const { values, positionals } = orUsage(
    args,
    () =>
      parseArgs({
        args,
        allowPositionals: true,
        options: {
          slides: { type: 'string' },
          scripts: { type: 'string' },
          marks: { type: 'string' },
          lang: { type: 'string', default: 'en' },
          json: { type: 'boolean', default: false },
        },
      }),
    USAGE,
  )
  const [audio, ...more] = positionals
  if (!audio || more.length > 0) throw new Usage(USAGE)
  const hint = await hintFrom(values)
  const sound = await readSound(ffmpegAt(process.env.LECTERN_FFMPEG ?? 'ffmpeg'), audio)
  tellOfSound(sound)
  const { samples } = sound
  const late = hint.from === 'marks' ? hint.marks.find((mark) => mark >= samples.length) : undefined
  if (late !== undefined)
    throw new UserFacingError(
      message('The recording is {seconds} s long, and a mark is at {late} s. Marks lie inside the recording.', {
        seconds: toSeconds(samples.length).toFixed(1),
        late: toSeconds(late),
      }),
      422,
    )
  const boundaries = proposeBoundaries(speechIn(samples), hint)
  const starts = [0, ...boundaries.map((boundary) => toSeconds(boundary.at))]
  const slides = starts.map((start, i) => ({
    slide: i + 1,
    start: Number(start.toFixed(3)),
    length: Number(((starts[i + 1] ?? toSeconds(samples.length)) - start).toFixed(3)),
    inPause: i === 0 || boundaries[i - 1]!.pause !== null,
  }))
  if (values.json) process.stdout.write(`${JSON.stringify({ audio, seconds: toSeconds(samples.length), slides })}\n`)
  else
    for (const { slide, start, length, inPause } of slides) {
      const times = { slide, start: figure(start, 2), length: figure(length, 2) }
      const line = inPause
        ? say('Slide {slide}: {start} s, for {length} s', times)
        : say('Slide {slide}: {start} s, for {length} s (no pause was near)', times)
      process.stdout.write(`${line}\n`)
    }
}
