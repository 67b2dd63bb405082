/** `npm run bench -- typing`: how many keys are pressed, and how often sound is asked for, to type the demo's lecture by ear, a minute of sound. */
import { join } from 'node:path'
import type { BenchOptions, Figure } from '#bench/report/report.ts'
import { analyse } from '#core/audio/analysis/analyse.ts'
import { cleanTake, usualCleaning } from '#core/audio/render/render.ts'
import { findHum } from '#core/audio/repair/hum.ts'
import { fromInt16 } from '#core/audio/signal/pcm.ts'
import { align, finalUtterance } from '#core/captions/align/align.ts'
import { extractFeatures } from '#core/captions/align/extract-features.ts'
import { spansByEar } from '#core/captions/generate/caption-by-ear.ts'
import { guessWord, type Vocabulary, vocabularyOf } from '#core/captions/generate/guess-word.ts'
import { sentences } from '#core/script/sentences.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { DEMO_SLIDES } from '#demo/lecture.ts'
import { ffmpegAt } from '#server/media/ffmpeg.ts'
import { decodeFlac } from '#server/media/sound-files.ts'
import { openSynthesiser } from '#server/speech/synthesiser.ts'

const FILES = join(import.meta.dirname, '../../demo/files')
/** Keys that go down, those held with them counted. Before: hear, stop, on to the next; now Enter alone. */
const KEYS_BEFORE = { hear: 2, stop: 2, next: 2 }
const KEYS_NOW = { next: 1, guess: 1 }

/** Keys for a text when each word is guessed as soon as it can be, and a right guess is taken. */
function keysWithGuesses(text: string, vocabulary: Vocabulary): number {
  let keys = 0
  let typed = ''
  for (const word of text.split(' ')) {
    const begun = typed === '' ? '' : `${typed} `
    if (begun) keys++
    const bare = word.replace(/\p{P}+$/u, '')
    let letters = 0
    while (letters < bare.length) {
      letters++
      keys++
      const guess = guessWord(vocabulary, begun + bare.slice(0, letters))
      if (guess !== null && bare.slice(0, letters) + guess === bare) {
        keys += KEYS_NOW.guess
        break
      }
    }
    keys += word.length - bare.length
    typed = begun + word
  }
  return keys
}

export async function bench(_: BenchOptions): Promise<Figure[]> {
  const media = ffmpegAt('ffmpeg')
  const sum = { before: 0, now: 0, letters: 0, playsBefore: 0, seconds: 0, phrases: 0 }
  for (const slide of DEMO_SLIDES) {
    const name = slide.takes.at(-1)
    if (!name) continue
    const take = fromInt16(await decodeFlac(media, join(FILES, name)))
    const humHz = findHum(take)
    const { speech } = analyse(take, cleanTake(take, usualCleaning(), humHz).speechProbability, humHz)
    const found = align(
      extractFeatures(take, usualCleaning(), humHz),
      sentences(slide.script, 'en'),
      (await openSynthesiser('en'))!,
    )
    const words = found.sentences.flatMap((sentence) => finalUtterance(sentence)?.words ?? [])
    // the slide itself has no script: the others of the lecture do
    const vocabulary = vocabularyOf([
      slide.altText ?? '',
      DEMO_SLIDES.filter((other) => other !== slide)
        .map((other) => other.script)
        .join('\n'),
    ])
    const spans = spansByEar(speech.map(({ start, end }) => ({ start: toSeconds(start), end: toSeconds(end) })))
    for (const { start, end } of spans) {
      const text = words
        .filter((word) => (word.start + word.end) / 2 >= start && (word.start + word.end) / 2 < end)
        .map((word) => word.w)
        .join(' ')
      sum.phrases++
      sum.seconds += end - start
      sum.letters += text.length
      sum.before += text.length + KEYS_BEFORE.hear + KEYS_BEFORE.stop + KEYS_BEFORE.next
      sum.now += keysWithGuesses(text, vocabulary) + KEYS_NOW.next
      sum.playsBefore++
    }
  }
  const aMinute = (count: number) => (60 * count) / sum.seconds
  const told = (name: string, value: number, unit: string): Figure => ({ name, value, goal: '–', unit, ok: null })
  return [
    told('keys a minute of speech, hearing and stopping by hand', aMinute(sum.before), `of ${sum.phrases} phrases`),
    told('keys a minute of speech, phrases that play and words that are guessed', aMinute(sum.now), ''),
    told('letters in it', aMinute(sum.letters), ''),
    told('keys beside the letters, by hand', aMinute(sum.before - sum.letters), ''),
    told('times sound is begun or stopped by hand, which now it is not', aMinute(2 * sum.playsBefore), 'a minute'),
  ]
}
