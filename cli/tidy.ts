/** `lectern tidy`: cleans, trims and levels one recording. */

import { randomUUID } from 'node:crypto'
import { open, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { dirname, join } from 'node:path'
import { parseArgs } from 'node:util'
import { tidyLong } from '#core/audio/render/render-streaming.ts'
import { toInt16 } from '#core/audio/signal/pcm.ts'
import { chunksOf, type Samples } from '#core/audio/signal/sample-source.ts'
import { wavHeader } from '#core/audio/signal/wav.ts'
import { suggestTidyUp } from '#core/audio/tidy-up/suggest.ts'
import type { SampleRange } from '#core/model/sample-range.ts'
import { SAMPLE_RATE, toSeconds } from '#core/timing/clocks.ts'
import { keptStretches } from '#core/timing/time-map.ts'
import { figure } from '#core/words/figures.ts'
import { say } from '#core/words/say.ts'
import { SOUND_ENCODERS } from '#server/export/pieces.ts'
import { type Ffmpeg, ffmpegAt } from '#server/media/ffmpeg.ts'
import { openSound } from '#server/media/read-sound.ts'
import { type SampleFile, sampleFile } from '#server/media/sample-file.ts'
import { bytesOf } from '#server/media/sound-files.ts'
import { endingOf, pourOut, readyOutput, STDOUT, writeOutput } from './io/output.ts'
import { orUsage, Usage, usageOf } from './io/usage.ts'
import { toldOfChannels } from './told-of-sound.ts'

const USAGE = usageOf(
  'lectern tidy IN -o OUT.wav|OUT.flac|OUT.mp3|OUT.m4a|- [--strength 0..1] [--keep-length] [--no-level] [--overwrite] [--json]',
)
const ENDINGS = ['wav', 'flac', 'mp3', 'm4a'] as const

const inSeconds = (stretches: readonly SampleRange[]) =>
  stretches.map(({ start, end }) => ({ start: toSeconds(start), end: toSeconds(end) }))

async function writeSound(path: string, clip: Samples) {
  const file = await open(path, 'w')
  try {
    await file.writeFile(wavHeader(clip.length, SAMPLE_RATE))
    for (const { start, end } of chunksOf(clip.length)) await file.writeFile(bytesOf(toInt16(clip.subarray(start, end))))
  } finally {
    await file.close()
  }
}

/** Writes a clip in the form that its ending names. */
async function writeClip(media: Ffmpeg, path: string, clip: Samples, ending: (typeof ENDINGS)[number]) {
  if (ending === 'wav') return writeSound(path, clip)
  const wav = `${path}.wav`
  try {
    await writeSound(wav, clip)
    await media.run(['-protocol_whitelist', 'file', '-f', 'wav', '-i', wav, ...SOUND_ENCODERS[ending], path])
  } finally {
    await rm(wav, { force: true })
  }
}

/** What was asked for. @throws Usage */
async function optionsOf(args: string[]) {
  const { values, positionals } = orUsage(
    args,
    () =>
      parseArgs({
        args,
        allowPositionals: true,
        options: {
          output: { type: 'string', short: 'o' },
          strength: { type: 'string' },
          'keep-length': { type: 'boolean', default: false },
          'no-level': { type: 'boolean', default: false },
          overwrite: { type: 'boolean', default: false },
          json: { type: 'boolean', default: false },
        },
      }),
    USAGE,
  )
  const [input, ...more] = positionals
  const strength = values.strength === undefined ? null : Number(values.strength)
  if (!input || more.length > 0 || !values.output) throw new Usage(USAGE)
  if (strength !== null && !(strength >= 0 && strength <= 1))
    throw new Usage(`${say('The strength is a number from 0 to 1.')}\n${USAGE}`)

  const { output } = values
  if (output === STDOUT && values.json)
    throw new Usage(`${say('The sound and --json cannot both go to standard output.')}\n${USAGE}`)
  const ending = endingOf(output, ENDINGS, USAGE)
  await readyOutput(output, [input], values.overwrite)
  // what lies between is as large as the recording: beside the result, or where there is room for it
  const folder = output === STDOUT ? tmpdir() : dirname(output)
  return { ...values, input, output, strength, ending, folder }
}

export async function tidy(args: string[]) {
  const values = await optionsOf(args)
  const { input, output, strength, ending, folder } = values
  const media = ffmpegAt(process.env.LECTERN_FFMPEG ?? 'ffmpeg')
  const sound = await openSound(media, input, folder)
  const { samples, deadChannels, cancels, missing } = sound
  if (missing) process.stderr.write(`${say(missing.note)}\n`)
  const spilled: SampleFile[] = []
  const allocate = (length: number) => {
    const file = sampleFile(folder, length)
    spilled.push(file)
    return file
  }
  const usual = suggestTidyUp({ speech: [] }, 1)
  const { analysis, tidyUp, clip, figures } = tidyLong(
    samples,
    {
      cleaning: { ...usual, cleaning: strength ?? usual.cleaning },
      kept: values['keep-length'] ? null : 'suggested',
      level: values['no-level'] ? null : usual.level,
    },
    allocate,
  )
  const write = (path: string) => writeClip(media, path, clip, ending)
  if (output === STDOUT) {
    const path = join(folder, `lectern-${randomUUID()}.wav`)
    await write(path)
      .then(() => pourOut(path))
      .finally(() => rm(path, { force: true }))
  } else await writeOutput(output, write)
  for (const file of [sound, ...spilled]) file.close()

  const result = {
    input,
    output,
    seconds: { before: toSeconds(samples.length), after: toSeconds(clip.length) },
    speech: inSeconds(analysis.speech),
    kept: inSeconds(keptStretches(tidyUp)),
    trailingUtterance: analysis.trailingUtterance && inSeconds([analysis.trailingUtterance])[0]!,
    noiseFloorDb: { before: analysis.noiseFloorDb, after: figures.noiseFloorDb },
    loudnessLufs: { before: analysis.loudnessLufs, after: figures.loudnessLufs },
    truePeakDbtp: { before: analysis.truePeakDbtp, after: figures.truePeakDbtp },
    gainDb: figures.gainDb,
    gainReductionDb: figures.gainReductionDb,
    humHz: analysis.humHz,
    clippedSamples: analysis.clippedSamples,
    deadChannels,
    cancels,
    missingSeconds: missing?.missingSeconds ?? null,
    note: missing ? say(missing.note) : null,
    strength: tidyUp.cleaning,
  }
  if (values.json) process.stdout.write(`${JSON.stringify(result)}\n`)
  else (output === STDOUT ? process.stderr : process.stdout).write(`${sentences(result).join('\n')}\n`)
}

const db = (value: number | null, unit: string) => (value === null ? say('nothing to measure') : `${figure(value, 1)} ${unit}`)

function sentences(r: {
  output: string
  seconds: { before: number; after: number }
  speech: unknown[]
  trailingUtterance: { start: number } | null
  noiseFloorDb: { before: number | null; after: number | null }
  loudnessLufs: { before: number | null; after: number | null }
  humHz: number | null
  clippedSamples: number
  deadChannels: number
  cancels: boolean
}): string[] {
  return [
    `${r.output}: ${figure(r.seconds.before, 2)} s → ${figure(r.seconds.after, 2)} s`,
    r.speech.length === 0
      ? say('No voice found: was the microphone muted? The whole recording was kept.')
      : say('Speech: {stretches, plural, one {# stretch} other {# stretches}}', { stretches: r.speech.length }),
    say('Room: {before} → {after}', { before: db(r.noiseFloorDb.before, 'dBFS'), after: db(r.noiseFloorDb.after, 'dBFS') }),
    say('Loudness: {before} → {after}', { before: db(r.loudnessLufs.before, 'LUFS'), after: db(r.loudnessLufs.after, 'LUFS') }),
    ...(r.loudnessLufs.before !== null &&
    r.noiseFloorDb.before !== null &&
    r.speech.length > 0 &&
    r.loudnessLufs.before - r.noiseFloorDb.before < 10
      ? [say('The room is nearly as loud as the voice: move closer to the microphone.')]
      : []),
    ...(r.humHz === null ? [] : [say('Mains hum at {frequency} Hz was taken away.', { frequency: figure(r.humHz, 1) })]),
    ...(r.trailingUtterance
      ? [
          say('At {start} s a few words follow a long pause; they were kept. Were they meant?', {
            start: figure(r.trailingUtterance.start, 1),
          }),
        ]
      : []),
    ...(r.clippedSamples > 0
      ? [
          say(
            '{samples, plural, one {# sample touches} other {# samples touch}} full scale. Turn the microphone down and record again if it can be heard.',
            { samples: r.clippedSamples },
          ),
        ]
      : []),
    ...toldOfChannels(r),
  ]
}
