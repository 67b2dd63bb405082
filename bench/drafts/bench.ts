/** `npm run bench -- drafts`: captions where there is no script, by Debian's pocketsphinx. Odd seeds are for choosing, even ones held back. */
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { BenchOptions, Figure } from '#bench/report/report.ts'
import { analyse } from '#core/audio/analysis/analyse.ts'
import { cleanTake, usualCleaning } from '#core/audio/render/render.ts'
import { findHum } from '#core/audio/repair/hum.ts'
import { fromInt16, toInt16 } from '#core/audio/signal/pcm.ts'
import { Resampler } from '#core/audio/signal/resample.ts'
import { writeWav } from '#core/audio/signal/wav.ts'
import { align } from '#core/captions/align/align.ts'
import { extractFeatures } from '#core/captions/align/extract-features.ts'
import { draftCues } from '#core/captions/recognised/draft-cues.ts'
import { heardSentences } from '#core/captions/recognised/heard-sentences.ts'
import { LISTENING_RATE, type RecogniserContext } from '#core/captions/recognised/recogniser.ts'
import { heardSounds, surelyNoWords } from '#core/captions/spoken/heard-sounds.ts'
import type { SampleRange } from '#core/model/sample-range.ts'
import { SAMPLE_RATE, toSamples, toSeconds } from '#core/timing/clocks.ts'
import { ffmpegAt } from '#server/media/ffmpeg.ts'
import { decodeFlac } from '#server/media/sound-files.ts'
import { askRecogniser } from '#server/speech/recognisers/ask-recogniser.ts'
import { type KnownRecogniser, ownRecogniser } from '#server/speech/recognisers/known-recognisers.ts'
import { openSynthesiser } from '#server/speech/synthesiser.ts'
import { lay, noise, random, sine } from '#tests/made/sound.ts'
import { type Case, makeCase } from '../align/corpus.ts'
import { hasPrompts, PROMPT_PACKAGES } from '../speech/prompts.ts'
import { spokenWords, wordErrors } from './word-errors.ts'

const CASES = 3
/** Words a sentence that stand on the slide: the longest ones, as slides have them. */
const ON_SLIDE = 2
const NOISES = ['white', 'pink', 'fan'] as const
const LEVELS = [
  ['clean', null, 20],
  ['15 dB', 15, 25],
  ['10 dB', 10, 30],
] as const

/** As odd or even as the seed itself. */
const caseSeed = (seed: number, n: number) => 900 + 2 * (CASES * seed + n) + (seed % 2)

const slideOf = ({ script }: Case) =>
  script
    .flatMap((sentence) =>
      spokenWords(sentence)
        .toSorted((a, b) => b.length - a.length)
        .slice(0, ON_SLIDE),
    )
    .join(' ')

interface Listened {
  words: string[]
  /** What of it is not believed gives none. */
  draft: { start: number; text: string }[]
}

/** A draft of a sound, as the app makes it. @param tidied whether the recogniser gets it tidied */
async function draftOf(
  samples: Float32Array,
  context: Omit<RecogniserContext, 'stretches'>,
  recogniser: KnownRecogniser,
  folder: string,
  tidied = true,
): Promise<Listened> {
  const humHz = findHum(samples)
  const cleaned = cleanTake(samples, usualCleaning(), humHz)
  const { speech } = analyse(samples, cleaned.speechProbability, humHz)
  if (speech.length === 0) return { words: [], draft: [] }
  const path = join(folder, 'sound.wav')
  const given = tidied ? cleaned.samples : samples
  writeFileSync(path, writeWav(toInt16(new Resampler(SAMPLE_RATE, LISTENING_RATE).push(given)), LISTENING_RATE))
  const seconds = toSeconds(samples.length)
  const stretches = speech.map(({ start, end }: SampleRange) => ({ start: toSeconds(start), end: toSeconds(end) }))
  const signal = new AbortController().signal
  const heard = await askRecogniser(
    recogniser,
    path,
    seconds,
    'en',
    { ...context, stretches },
    join(folder, 'context.json'),
    signal,
  )
  if (!('words' in heard)) return { words: [], draft: [] }
  const words = heard.words.flatMap(({ text }) => spokenWords(text))
  const list = heardSentences(heard.words, 'en', new Map())
  const features = extractFeatures(samples, usualCleaning(), humHz)
  const texts = list.map(({ text }) => text)
  const alignment = align(features, texts, (await openSynthesiser('en'))!, surelyNoWords(heardSounds(features)))
  const made = draftCues(alignment, { language: 'en', lineCharacters: 37, takeId: '', seconds, speech })
  if (!made) return { words, draft: [] }
  const begun = alignment.sentences.flatMap(({ spans, text }) => (spans[0] ? [{ start: spans.at(-1)!.start, text }] : []))
  return { words, draft: begun }
}

interface Starts {
  /** Of sentences whose first word was heard rightly, how far from where it is said. ms */
  right: number[]
  /** Of all that begin where one begins. ms */
  all: number[]
  inside: number
  sentences: number
}

function startsOf({ draft }: Listened, made: Case, into: Starts) {
  for (const { start, text } of draft) {
    const near = made.said
      .map((said) => ({ ...said, off: 1000 * Math.abs(toSeconds(said.start) - start) }))
      .reduce((best, said) => (said.off < best.off ? said : best))
    const inside = made.said.some((said) => start > toSeconds(said.start) + 0.25 && start < toSeconds(said.end) - 0.1)
    into.sentences++
    if (inside) into.inside++
    else {
      into.all.push(near.off)
      const script = near.sentence === null ? '' : made.script[near.sentence]!
      if (spokenWords(script)[0] === spokenWords(text)[0]) into.right.push(near.off)
    }
  }
}

/** A tune of plucked tones. */
function tune(length: number, seed: number): Float32Array {
  const next = random(seed)
  const out = new Float32Array(length)
  for (let at = 0; at < length; at += toSamples(0.2 + 0.3 * next())) {
    const hz = 196 * 2 ** (Math.floor(next() * 24) / 12)
    const tone = sine(hz, 0.15, Math.min(toSamples(0.8), length - at)).map((v, i) => v * Math.exp(-i / toSamples(0.2)))
    lay(out, tone, at)
  }
  return out
}

/** Sounds in which nobody speaks. */
async function soundsWithoutWords(seed: number): Promise<Float32Array[]> {
  const length = toSamples(20)
  const chord = [220, 277, 330, 440].map((hz) => sine(hz * (1 + 0.01 * seed), 0.08, length))
  const music = Float32Array.from({ length }, (_, i) =>
    chord.reduce((sum, tone, n) => sum + tone[i]! * (1 + Math.sin(i / (9000 + 700 * n))), 0),
  )
  const swelling = noise(0.1, length, seed).map((v, i) => v * Math.max(0, Math.sin(i / 20_000)))
  const opening = fromInt16(await decodeFlac(ffmpegAt('ffmpeg'), 'demo/files/opening-music.flac'))
  return [music, tune(length, seed), tune(length, seed + 100), swelling, noise(0.03, length, seed + 2), opening.slice(0, length)]
}

const at = (list: number[], part: number) => list.toSorted((a, b) => a - b)[Math.floor(part * list.length)] ?? Number.NaN

export async function bench({ seed }: BenchOptions): Promise<Figure[]> {
  if (!hasPrompts()) throw new Error(`This bench speaks with Debian's voices: apt-get install ${PROMPT_PACKAGES.join(' ')}`)
  const recogniser = await ownRecogniser('pocketsphinx')
  if (!recogniser.isReady) throw new Error('This bench listens by pocketsphinx: apt-get install pocketsphinx pocketsphinx-en-us')
  const folder = mkdtempSync(join(tmpdir(), 'lectern-bench-drafts-'))
  const figures: Figure[] = []
  const starts: Starts = { right: [], all: [], inside: 0, sentences: 0 }
  try {
    for (const [name, snr, goal] of LEVELS) {
      const errors = { told: 0, untold: 0, raw: 0, words: 0 }
      for (let n = 0; n < CASES; n++) {
        const made = makeCase('en', 'plain', caseSeed(seed, n), snr === null ? null : { kind: NOISES[n % 3]!, snr })
        const said = spokenWords(made.script.join(' '))
        const told = await draftOf(made.samples, { slide: slideOf(made), lecture: '' }, recogniser, folder)
        const untold = await draftOf(made.samples, { slide: '', lecture: '' }, recogniser, folder)
        const raw = await draftOf(made.samples, { slide: '', lecture: '' }, recogniser, folder, false)
        errors.told += wordErrors(said, told.words)
        errors.untold += wordErrors(said, untold.words)
        errors.raw += wordErrors(said, raw.words)
        errors.words += said.length
        startsOf(told, made, starts)
      }
      const percent = (count: number) => (100 * count) / errors.words
      figures.push(
        {
          name: `words heard wrongly, tidied and told the slide, ${name}`,
          value: percent(errors.told),
          goal: `≤ ${goal}`,
          unit: `% of ${errors.words}`,
          ok: percent(errors.told) <= goal,
        },
        { name: `the same, not told the slide, ${name}`, value: percent(errors.untold), goal: '–', unit: '%', ok: null },
        { name: `the same, in the raw sound, ${name}`, value: percent(errors.raw), goal: '–', unit: '%', ok: null },
      )
    }
    let captions = 0
    const silent = await soundsWithoutWords(seed)
    for (const sound of silent) {
      const { draft } = await draftOf(sound, { slide: '', lecture: '' }, recogniser, folder).catch(() => ({ draft: [] }))
      captions += draft.length
    }
    const inside = (100 * starts.inside) / Math.max(1, starts.sentences)
    figures.push(
      {
        name: 'caption starts of a draft, median',
        value: at(starts.all, 0.5),
        goal: '≤ 10',
        unit: `ms of ${starts.all.length}`,
        ok: at(starts.all, 0.5) <= 10,
      },
      {
        name: 'where the first word is right, 95th',
        value: at(starts.right, 0.95),
        goal: '≤ 50',
        unit: `ms of ${starts.right.length}`,
        ok: at(starts.right, 0.95) <= 50,
      },
      { name: 'sentences begun inside another', value: inside, goal: '≤ 5', unit: `% of ${starts.sentences}`, ok: inside <= 5 },
      {
        name: 'captions made of noise or music',
        value: captions,
        goal: '≤ 0',
        unit: `of ${silent.length} sounds`,
        ok: captions === 0,
      },
    )
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
  return figures
}
