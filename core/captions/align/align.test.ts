import { describe, expect, test } from 'vitest'
import { findingsOf, isConvincing } from '#core/captions/compare/findings.ts'
import { makeCues } from '#core/captions/generate/make-cues.ts'
import { lay, noise, seconds } from '#tests/made/sound.ts'
import { speaker } from '#tests/made/speaker.ts'
import { type Alignment, align, finalUtterance } from './align.ts'
import { melOfSixteen, toSixteen } from './extract-features.ts'
import {
  activeFrames,
  audibleFrames,
  cleanRuns,
  FRAMES_A_SECOND,
  hzOf,
  melEdges,
  melOf,
  type Said,
  saidFrames,
} from './features.ts'
import { wordsOf } from './reference.ts'

const cuesOf = (alignment: Alignment, seconds: number) =>
  makeCues({ script: '', language: 'en', lineCharacters: 37, takeId: 't', seconds, speech: [], alignment, unsure: false }, [])

const engine = speaker({ pitch: 110, stretch: 1, shift: 1 }, 22_050)
/** Another voice: higher, slower, with a longer throat. */
const teacher = speaker({ pitch: 170, stretch: 1.25, shift: 1.06 }, 48_000)

const SCRIPT = [
  'Good evening and welcome to the rain gauge.',
  'The funnel is eight inches across the top.',
  'Nothing is lost when the tube is full.',
  'Keep the measuring stick dry between readings.',
  'Write down what you read before you pour.',
]

/** A recording of sentences with rests between them. @returns samples and where each sentence stands, seconds */
function record(said: readonly string[], voice = teacher) {
  const spoken = said.map((text) => voice.speak(text))
  const total = spoken.reduce((sum, s) => sum + s.samples.length + seconds(0.6), seconds(0.8))
  const samples = noise(0.0002, total, 4)
  let at = seconds(0.5)
  const times = spoken.map(({ samples: sound, words }) => {
    lay(samples, sound, at)
    const time = { start: at / 48_000, end: (at + sound.length) / 48_000, words: words.map((w) => at / 48_000 + w.seconds) }
    at += sound.length + seconds(0.6)
    return time
  })
  return { samples, times }
}

test('a breath that runs into the words is not speech; a soft consonant before them is', () => {
  const levels = (head: number) =>
    Float32Array.from({ length: 400 }, (_, n) =>
      n < 100 || n >= 300 ? -80 : n < 100 + head ? (n === 98 + head ? -46 : -42) : -20 - (n % 7),
    )
  expect(activeFrames(levels(40), saidFrames(null, 400)).indexOf(1)).toBeGreaterThanOrEqual(137)
  expect(activeFrames(levels(12), saidFrames(null, 400)).indexOf(1)).toBeLessThanOrEqual(101)
})

describe('what the voice model says', () => {
  /** For each of its steps, 94 a second. */
  const speechProbability = (from: number, to: number) =>
    Float32Array.from({ length: 375 }, (_, s) => ((s + 0.5) / 93.75 >= from && (s + 0.5) / 93.75 < to ? 0.95 : 0.01))

  test('a breath is no word, however loud it is', () => {
    // a breath as loud as the words after it: 1 to 1.6 s, then words up to 3 s
    const levels = Float32Array.from({ length: 400 }, (_, n) => (n < 100 || n >= 300 ? -80 : -20 - (n % 7)))
    expect(activeFrames(levels, saidFrames(null, 400)).indexOf(1)).toBe(100)
    expect(activeFrames(levels, saidFrames(speechProbability(1.6, 3), 400)).indexOf(1)).toBeGreaterThanOrEqual(155)
  })
  test('a word fades as long as the model is sure of it, though the level has fallen into the room', () => {
    const levels = Float32Array.from({ length: 400 }, (_, n) => (n >= 100 && n < 280 ? -20 - (n % 7) : -52 - (n % 3)))
    const end = (said: Said) => audibleFrames(levels, activeFrames(levels, said), said).lastIndexOf(1)
    expect(end(saidFrames(null, 400))).toBeLessThanOrEqual(281)
    expect(end(saidFrames(speechProbability(1, 3), 400))).toBeGreaterThanOrEqual(297)
  })
})

describe('the aligner', () => {
  test('after a sentence that is left out the others are found, though the next one begins with other words', () => {
    const longer = [...SCRIPT, 'Empty the tube and close the lid again.', 'The garden is dry until the evening comes.']
    const said = longer.toSpliced(2, 1)
    said[2] = 'Please hold our measuring stick dry between readings.'
    said[4] = 'Pour out the tube and close the lid again.'
    const { samples } = record(said)
    const { sentences } = align({ mel: melOfSixteen(toSixteen(samples)), speechProbability: null }, longer, engine)
    expect(sentences.filter((sentence) => sentence.skipped).map((sentence) => sentence.i)).toEqual([2])
  })
  test('every sentence and every word of a script read as it stands is found', () => {
    const { samples, times } = record(SCRIPT)
    const { sentences, offScript } = align({ mel: melOfSixteen(toSixteen(samples)), speechProbability: null }, SCRIPT, engine)
    expect(offScript).toEqual([])
    // the same input gives the same output
    expect(align({ mel: melOfSixteen(toSixteen(samples)), speechProbability: null }, SCRIPT, engine)).toEqual({
      sentences,
      offScript,
    })
    for (const [i, sentence] of sentences.entries()) {
      expect(sentence.spans).toHaveLength(1)
      expect(Math.abs(sentence.spans[0]!.start - times[i]!.start)).toBeLessThan(0.04)
      expect(Math.abs(sentence.spans[0]!.end - times[i]!.end)).toBeLessThan(0.06)
      for (const [k, word] of sentence.spans[0]!.words.entries()) {
        expect(word.k).toBe(k)
        expect(Math.abs(word.start - times[i]!.words[k]!)).toBeLessThan(0.09)
      }
      expect(sentence.needsReview).toBe(false)
    }
  })
  test('a sentence that was left out is said to be left out, and the others stay in place', () => {
    const { samples, times } = record(SCRIPT.filter((_, i) => i !== 2))
    const { sentences } = align({ mel: melOfSixteen(toSixteen(samples)), speechProbability: null }, SCRIPT, engine)
    expect(sentences.map((s) => s.skipped)).toEqual([false, false, true, false, false])
    expect(Math.abs(sentences[3]!.spans[0]!.start - times[2]!.start)).toBeLessThan(0.04)
  })
  test('a sentence said twice has two spans, the last of which is meant; cutting the first is offered', () => {
    const { samples, times } = record([SCRIPT[0]!, SCRIPT[1]!, SCRIPT[1]!, SCRIPT[2]!, SCRIPT[3]!])
    const alignment = align({ mel: melOfSixteen(toSixteen(samples)), speechProbability: null }, SCRIPT.slice(0, 4), engine)
    const twice = alignment.sentences[1]!
    expect(twice.spans).toHaveLength(2)
    expect(Math.abs(finalUtterance(twice)!.start - times[2]!.start)).toBeLessThan(0.05)
    const [offer] = findingsOf(alignment).repeated
    expect(Math.abs(offer!.start - times[1]!.start)).toBeLessThan(0.05)
    expect(Math.abs(offer!.end - times[2]!.start)).toBeLessThan(0.05)
  })
  test('what is not in the script is told and gets no caption', () => {
    const strange = 'Xyxz qjqz kkxq zzqj xqzk jzkq kxzy.'
    const { samples, times } = record([SCRIPT[0]!, SCRIPT[1]!, strange, SCRIPT[2]!, SCRIPT[3]!])
    const alignment = align({ mel: melOfSixteen(toSixteen(samples)), speechProbability: null }, SCRIPT.slice(0, 4), engine)
    expect(alignment.sentences.every((s) => !s.skipped)).toBe(true)
    expect(alignment.offScript).toHaveLength(1)
    expect(Math.abs(alignment.offScript[0]!.start - times[2]!.start)).toBeLessThan(0.15)
    const cues = cuesOf(alignment, samples.length / 48_000)
    const middle = (times[2]!.start + times[2]!.end) / 2
    expect(cues.some((cue) => cue.start < middle && cue.end > middle)).toBe(false)
  })
  test('the script of another slide is not believed', () => {
    const { samples } = record(SCRIPT.slice(0, 2))
    const other = ['Zebras jump quickly over wax.', 'My big sphinx of quartz judged a vow.', 'Pack five dozen jugs.']
    const found = align({ mel: melOfSixteen(toSixteen(samples)), speechProbability: null }, other, engine)
    expect(isConvincing(found)).toBe(false)
  })
  test.each([
    ['no script', record(SCRIPT).samples, []],
    ['silence', new Float32Array(48_000 * 3), SCRIPT],
    ['an empty take', new Float32Array(0), SCRIPT],
  ])('%s gives nothing and does not fail', (_, samples, script) => {
    const { sentences, offScript } = align({ mel: melOfSixteen(toSixteen(samples)), speechProbability: null }, script, engine)
    expect(sentences.every((s) => s.skipped && s.spans.length === 0)).toBe(true)
    expect(offScript).toEqual([])
  })
  test('a script far too long for its take ends in time, and is not believed', () => {
    const { samples } = record(SCRIPT.slice(0, 1))
    const long = Array.from({ length: 15 }, (_, i) => `${SCRIPT[i % 5]} ${i}`)
    expect(isConvincing(align({ mel: melOfSixteen(toSixteen(samples)), speechProbability: null }, long, engine))).toBe(false)
  })
})

describe('cues from an alignment', () => {
  const { samples, times } = record(SCRIPT)
  const cues = cuesOf(
    align({ mel: melOfSixteen(toSixteen(samples)), speechProbability: null }, SCRIPT, engine),
    samples.length / 48_000,
  )
  test('each begins just before its words and ends after them, in order, none over another', () => {
    for (const [i, cue] of cues.entries()) {
      expect(cue.start).toBeLessThanOrEqual(times[i]!.start + 0.03)
      expect(cue.start).toBeGreaterThan(times[i]!.start - 0.12)
      expect(cue.end).toBeGreaterThanOrEqual(times[i]!.end - 0.06)
      if (i > 0) expect(cue.start).toBeGreaterThanOrEqual(cues[i - 1]!.end - 1e-9)
    }
  })
  test('the text is that of the script', () => expect(cues.map((c) => c.text.replace('\n', ' '))).toEqual(SCRIPT))
})

describe('features', () => {
  test('the mel scale is that of the formula: 1000 mel are 1000 Hz', () => {
    // O'Shaughnessy 1987: mel = 2595 log10(1 + f / 700), which puts 1000 Hz at 999.99 mel
    expect(melOf(1000)).toBeCloseTo(999.99, 1)
    expect(hzOf(melOf(3210))).toBeCloseTo(3210, 6)
  })
  test('filters lie evenly on it, each beginning where the one before has its middle', () => {
    const mel = melEdges().map(melOf)
    const step = mel[1]! - mel[0]!
    for (let i = 1; i < mel.length; i++) expect(mel[i]! - mel[i - 1]!).toBeCloseTo(step, 6)
  })
  test('clicks are dropped and stops inside words filled', () => {
    const on = (text: string) => Uint8Array.from(text, (c) => Number(c))
    expect([...cleanRuns(on('0001100000011111100111110000'))].join('')).toBe('0000000000011111111111110000')
  })
  test('loud frames are active and the room is not', () => {
    const levels = Float32Array.from({ length: 200 }, (_, n) => (n >= 60 && n < 140 ? -20 : -75))
    expect(activeFrames(levels, saidFrames(null, 200)).reduce((sum, v) => sum + v, 0)).toBe(80)
    expect(FRAMES_A_SECOND).toBe(100)
  })
})

test('words without a letter are not said but counted', () => {
  expect(wordsOf('... to leave — now').map(({ text, index, character }) => [text, index, character])).toEqual([
    ['to', 1, 4],
    ['leave', 2, 7],
    ['now', 4, 15],
  ])
})
