/** Words cut out of takes whose every word is known: voices of Debian's flite, which tells when each of its phones begins. */
import { execFileSync } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { usualCleaning } from '#core/audio/render/render.ts'
import { findHum } from '#core/audio/repair/hum.ts'
import { rms } from '#core/audio/signal/pcm.ts'
import { piecesFor, placeCut } from '#core/audio/tidy-up/place-cut.ts'
import { align } from '#core/captions/align/align.ts'
import { extractFeatures } from '#core/captions/align/extract-features.ts'
import { type SpokenWord, wordsOfAlignment } from '#core/captions/spoken/spoken-words.ts'
import { sentences } from '#core/script/sentences.ts'
import { toSamples, toSeconds } from '#core/timing/clocks.ts'
import { DEMO_SLIDES } from '#demo/lecture.ts'
import { openSynthesiser } from '#server/speech/synthesiser.ts'
import { random } from '#tests/made/sound.ts'
import { type SpokenTruth, spokenTruth } from '../align/words.ts'
import { decode } from '../tidy/corpus.ts'
import { type LaidPiece, overRoom } from './layout.ts'

const VOICES = ['slt', 'rms', 'awb', 'kal16']
const SENTENCES = 12

/** Where the words that go stand: between two rests, beside one, or in the middle of speech. */
export const PLACES = ['two rests', 'one rest', 'no rest'] as const
export type Place = (typeof PLACES)[number]

export interface CutFigures {
  cuts: number
  words: number
  /** Joins at which the sound jumps more than anywhere in the voice itself. */
  clicks: number
  /** Words of which more than 20 ms is still heard, and words that were to stay and lost as much. */
  left: number
  taken: number
  /** Cuts with such a word of which nothing is said. */
  untold: number
}

const LEAST_S = 0.02
/** What a listener takes for a rest. */
const REST_S = 0.1

interface Take {
  samples: Float32Array
  script: string[]
  words: SpokenTruth[]
}

/** A voice says some of the demo's sentences one after the other. */
function take(voice: string, part: number, seed: number): Take {
  const next = random(seed)
  const folder = mkdtempSync(join(tmpdir(), 'lectern-cuts-'))
  const path = join(folder, 'said.wav')
  const script: string[] = []
  const words: SpokenTruth[] = []
  const pieces: LaidPiece[] = []
  let at = toSamples(0.6)
  try {
    const all = DEMO_SLIDES.flatMap((slide) => sentences(slide.script, 'en'))
    for (const text of all.slice(part * SENTENCES, (part + 1) * SENTENCES)) {
      const truth = spokenTruth(voice, text, path)
      if (!truth) continue
      execFileSync('flite', ['-voice', voice, '-t', text, '-o', path])
      const sound = decode(path)
      for (const word of truth) words.push({ start: toSeconds(at) + word.start, end: toSeconds(at) + word.end })
      script.push(text)
      pieces.push({ sound, at })
      at += sound.length + toSamples(0.05 + 0.6 * next())
    }
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
  const samples = overRoom(pieces, at + toSamples(0.5), seed, 45)
  return { samples, script, words }
}

/** What is so far under the voice is no sound of a word: the closure of a stop, a rest. dB. */
const SOUND_DB = 25

/** Seconds of a stretch in which something of a word is heard. */
function soundIn(samples: Float32Array, voice: number, from: number, to: number): number {
  const step = toSamples(0.005)
  let heard = 0
  for (let at = toSamples(from); at + step <= toSamples(to); at += step)
    if (rms(samples, at, at + step) > voice * 10 ** (-SOUND_DB / 20)) heard += 0.005
  return heard
}

/** A word of a reading, and which of the script it is. */
export interface ReadWord extends SpokenTruth {
  sentence: number
  index: number
}

/** Readings with a sentence left out, one said twice and one begun anew, by every voice. */
export function readAloud(seed: number, part: number): { samples: Float32Array; script: string[]; words: ReadWord[] }[] {
  return VOICES.flatMap((voice, v) => {
    const made = take(voice, part, seed + 10 * v)
    if (made.script.length < 8) return []
    const next = random(seed + v)
    // each sentence's words in the reading as it is
    let word = 0
    const spokenOf = made.script.map((text) => {
      const count = text.split(' ').length
      const own = made.words.slice(word, word + count)
      word += count
      return own
    })
    const order: { sentence: number; until: number }[] = []
    for (const [i, own] of spokenOf.entries()) {
      if (i === 3) continue
      if (i === 5) order.push({ sentence: i, until: own.length })
      if (i === 7) order.push({ sentence: i, until: Math.ceil(own.length / 2) })
      order.push({ sentence: i, until: own.length })
    }
    const words: ReadWord[] = []
    const pieces: LaidPiece[] = []
    let at = toSamples(0.5)
    for (const { sentence, until } of order) {
      const own = spokenOf[sentence]!.slice(0, until)
      const [from, to] = [toSamples(own[0]!.start) - toSamples(0.03), toSamples(own.at(-1)!.end) + toSamples(0.03)]
      pieces.push({ sound: made.samples.slice(from, to), at })
      for (const [index, { start, end }] of own.entries())
        words.push({ start: start + toSeconds(at - from), end: end + toSeconds(at - from), sentence, index })
      at += to - from + toSamples(0.25 + 0.5 * next())
    }
    const samples = overRoom(pieces, at, seed + v, 40)
    return [{ samples, script: made.script, words }]
  })
}

const HOP = toSamples(0.002)

/** Largest step of the short-time level against its neighbours, and of a single sample, around a place. */
function jump(samples: Float32Array, at: number): number {
  let most = 0
  for (let i = Math.max(2, at - HOP); i < Math.min(samples.length, at + HOP); i++)
    most = Math.max(most, Math.abs(samples[i]! - 2 * samples[i - 1]! + samples[i - 2]!))
  return most / (rms(samples, Math.max(0, at - 5 * HOP), at + 5 * HOP) + 1e-4)
}

/** What is heard around a cut: the sound with its join, cross-faded as the app does, and where that is. */
function joined(samples: Float32Array, start: number, end: number): { sound: Float32Array; at: number } {
  const [half, around] = [toSamples(0.006), toSamples(0.1)]
  const before = samples.slice(Math.max(0, start - around), start + half)
  const after = samples.slice(Math.max(0, end - half), end + around)
  const at = Math.min(start, around)
  const out = new Float32Array(at + around)
  out.set(before.subarray(0, at))
  out.set(after.subarray(half), at)
  for (let n = 0; n < 2 * half; n++) {
    const turn = ((n + 0.5) / (2 * half)) * (Math.PI / 2)
    out[at - half + n] = before[at - half + n]! * Math.cos(turn) + after[n]! * Math.sin(turn)
  }
  return { sound: out, at }
}

interface Heard extends Take {
  found: SpokenWord[]
  /** The largest jump in the take itself but for a few. */
  natural: number
}

async function heardTakes(seed: number, part: number): Promise<Heard[]> {
  const next = random(seed)
  const takes: Heard[] = []
  for (const [v, voice] of VOICES.entries()) {
    const made = take(voice, part, seed + 10 * v)
    const heard = extractFeatures(made.samples, usualCleaning(), findHum(made.samples))
    const found = wordsOfAlignment(align(heard, made.script, (await openSynthesiser('en'))!)).filter((w) => w.kind === 'script')
    if (found.length !== made.words.length) continue
    const jumps = Array.from({ length: 4000 }, () => jump(made.samples, Math.floor(next() * made.samples.length)))
    takes.push({ ...made, found, natural: jumps.sort((a, b) => a - b).at(-4)! })
  }
  return takes
}

/** Words that stand so: the first and the last of them. */
function choose(words: readonly SpokenTruth[], place: Place, next: () => number): [number, number] | null {
  const restAfter = (i: number) => words[i + 1]!.start - words[i]!.end >= REST_S
  const first = 1 + Math.floor(next() * (words.length - 3))
  const last = Math.min(words.length - 2, first + Math.floor(next() * 6))
  const rests = Number(restAfter(first - 1)) + Number(restAfter(last))
  return rests === 2 - PLACES.indexOf(place) ? [first, last] : null
}

function judge({ samples, words, found, natural }: Heard, [first, last]: [number, number], figures: CutFigures) {
  const request = {
    before: toSamples(found[first - 1]!.end),
    first: toSamples(found[first]!.start),
    last: toSamples(found[last]!.end),
    after: toSamples(found[last + 1]!.start),
  }
  const [one, other] = piecesFor(request, samples.length).map(({ start, end }) => ({
    from: start,
    samples: samples.slice(start, end),
  }))
  const { cut, isHeard } = placeCut(request, [one!, other!], samples.length)
  const [start, end] = [toSeconds(cut.start), toSeconds(cut.end)]
  const voice = rms(samples)
  const isMore = (from: number, to: number) => soundIn(samples, voice, from, to) > LEAST_S
  const left = Number(isMore(words[first]!.start, start)) + Number(isMore(end, words[last]!.end))
  const taken = Number(isMore(start, words[first - 1]!.end)) + Number(isMore(words[last + 1]!.start, end))
  const { sound, at } = joined(samples, cut.start, cut.end)
  figures.cuts++
  figures.words += last - first + 1
  if (jump(sound, at) > natural) figures.clicks++
  figures.left += left
  figures.taken += taken
  if (left + taken > 0 && !isHeard) figures.untold++
}

/** @param count of cuts of each kind @param part of the demo's sentences, so that halves differ */
export async function cutFigures(count: number, seed: number, part: number): Promise<Record<Place, CutFigures>> {
  const none = (): CutFigures => ({ cuts: 0, words: 0, clicks: 0, left: 0, taken: 0, untold: 0 })
  const figures: Record<Place, CutFigures> = { 'two rests': none(), 'one rest': none(), 'no rest': none() }
  const next = random(seed)
  const takes = await heardTakes(seed, part)
  for (const place of PLACES)
    for (let tries = 0; figures[place].cuts < count && tries < 200 * count; tries++) {
      const made = takes[tries % takes.length]!
      const chosen = choose(made.words, place, next)
      if (chosen) judge(made, chosen, figures[place])
    }
  return figures
}
