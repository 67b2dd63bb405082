/** Times every word of a script in a recording of it. */
import { adapt } from './adapt.ts'
import type { HeardTake } from './extract-features.ts'
import { activeFrames, audibleFrames, cepstra, FRAMES_A_SECOND, frameLevels, type MelSpectrum, saidFrames } from './features.ts'
import { recoverSayings } from './recover.ts'
import { makeReference, type Reference, type Synthesiser, stretchReference } from './reference.ts'
import { frameCost, type SearchCosts, search } from './search.ts'
import { snapWords } from './snap.ts'
import type { Path } from './traceback.ts'
import { hasCompetingSegment, isTorn, onlySayings, spokenRate, type Utterance } from './utterances.ts'

export interface AlignedWord {
  /** Counts the sentence's space-separated words from 0. */
  k: number
  w: string
  /** Seconds. */
  start: number
  end: number
}

/** One time a sentence was said. */
export interface SentenceSpan {
  start: number
  end: number
  /** Broken off: begun and not ended. */
  partial: boolean
  words: AlignedWord[]
}

export interface AlignedSentence {
  i: number
  text: string
  skipped: boolean
  /** 0 to 1. */
  confidence: number
  /** Please check: the words may stand elsewhere, or may not have been said like this. */
  needsReview: boolean
  /** In order; the last whole one is the one that was meant. */
  spans: SentenceSpan[]
}

/** The utterance that counts: the last whole one, else the last. */
export function finalUtterance(sentence: Pick<AlignedSentence, 'spans'>): SentenceSpan | null {
  return sentence.spans.findLast((span) => !span.partial) ?? sentence.spans.at(-1) ?? null
}

export interface Alignment {
  sentences: AlignedSentence[]
  /** What was said and is not in the script. */
  offScript: { start: number; end: number }[]
}

/** Before anything is known of the speaker: the garbage in parts of what two unlike frames cost. */
const FIRST_COSTS: SearchCosts = {
  silence: 0.3,
  unlike: 1,
  garbage: 0.95,
  garbageEntry: 9,
  skip: 18,
  repeat: 8,
  falseStart: 9,
  unrested: 4,
}
/** Once the reference sounds like the speaker; the garbage lies so far from what fits towards what does not. */
const ADAPTED_COSTS: SearchCosts = {
  silence: 0.3,
  unlike: 1,
  garbage: 0.62,
  garbageEntry: 9,
  skip: 24,
  repeat: 8,
  falseStart: 9,
  unrested: 6,
}
const PASSES = 2
const LEAST_FRAMES = 0.1 * FRAMES_A_SECOND
const FORCED_BELOW = 0.5
/** A sentence said so many times slower or faster than the others is likely misplaced. */
const ODD_RATE = 1.5
/** A speaker says a sentence about as fast when it is said again. */
const ODD_REPEAT = 1.25
/** A rest between two things is longer. Frames. */
const NO_REST = 0.03 * FRAMES_A_SECOND
/** An ending that is unclear for longer may be none. Frames. */
const LONGEST_FADE = 0.17 * FRAMES_A_SECOND
/** Below it a sentence is marked for a look. */
const DOUBTFUL = 0.5
/** Part of every kept alignment: raise it when the same take and script would give other times. */
export const ALIGN_VERSION = 9
/** Shorter strange sounds are breaths and lips. */
const SHORTEST_EXTRA_S = 0.45

export interface Heard {
  mel: MelSpectrum
  levels: Float32Array
  active: Uint8Array
  audible: Uint8Array
  /** As `saidFrames` tells it. */
  clear: Uint8Array
  features: Float32Array
}

type Take = Pick<HeardTake, 'mel' | 'speechProbability'>

/** Seconds of the recording. */
interface Stretch {
  start: number
  end: number
}

function listen({ mel, speechProbability }: Take, notWords: readonly Stretch[]): Heard {
  const levels = frameLevels(mel)
  const said = saidFrames(speechProbability, mel.frames)
  const active = activeFrames(levels, said)
  const audible = audibleFrames(levels, active, said)
  for (const { start, end } of notWords)
    for (const frames of [active, audible, said.clear])
      frames.fill(0, Math.round(start * FRAMES_A_SECOND), Math.round(end * FRAMES_A_SECOND))
  return { mel, levels, active, audible, clear: said.clear, features: cepstra(mel, active) }
}

/** The recorded part of every word's reference: which words take how long, for a first guess of the speaker's rate. */
function rateOf(reference: Reference, active: Uint8Array): number {
  const spoken = active.reduce((sum, on) => sum + on, 0)
  return Math.min(1.8, Math.max(0.6, spoken / Math.max(1, reference.frames)))
}

/** What two frames cost that have nothing to do with each other, for this recording. */
function randomCost(features: Float32Array, active: Uint8Array, reference: Reference): number {
  const on = [...active.keys()].filter((n) => active[n])
  if (on.length === 0) return 1
  let sum = 0
  for (let i = 0; i < 2000; i++)
    sum += frameCost(features, on[(i * 7919) % on.length]!, reference.features, (i * 104_729) % reference.frames)
  return sum / 2000
}

/** A take beside its script, once the reference sounds like its speaker. */
export interface Learned {
  heard: Heard
  /** On one scale with the reference. */
  features: Float32Array
  reference: Reference
  path: Path
  /** What a frame costs that fits, and one that has nothing to do with the other. */
  fitting: number
  unlike: number
}

/**
 * Learns how the speaker of a take says its script.
 *
 * @param take as `extractFeatures` hears it
 * @param sentences of the script, in order, without empty ones
 * @param notWords where a voice is heard and no words are, as in an "um", seconds
 * @returns null where nobody speaks, or there is nothing to say
 * @throws Error of the synthesiser when it cannot speak the language
 */
export function learnSpeaker(
  take: Take,
  sentences: readonly string[],
  synthesiser: Synthesiser,
  notWords: readonly Stretch[] = [],
): Learned | null {
  if (sentences.length === 0 || take.mel.frames < LEAST_FRAMES) return null
  const heard = listen(take, notWords)
  if (!heard.active.includes(1)) return null
  const spoken = makeReference(sentences, synthesiser)
  let reference = stretchReference(spoken, rateOf(spoken, heard.active))
  const random = randomCost(heard.features, heard.active, reference)
  const scaled = (costs: SearchCosts, unit: number): SearchCosts => ({ ...costs, unlike: unit, garbage: costs.garbage * unit })
  let path = search(heard.features, heard.active, reference, scaled(FIRST_COSTS, random))
  // a voice far from the synthesiser's is like nothing in the script at first: it is held to the script once, and learned from that
  if (path.words.length < FORCED_BELOW * reference.words.length)
    path = search(
      heard.features,
      heard.active,
      reference,
      scaled({ ...FIRST_COSTS, garbage: 2 * FIRST_COSTS.garbage, skip: 5 * FIRST_COSTS.skip }, random),
    )
  let learned: Learned = { heard, features: heard.features, reference, path, fitting: 0.5, unlike: random }
  for (let pass = 0; pass < PASSES; pass++) {
    // a rate that was guessed wrong, because much was left out or said twice, is known better now
    const said = learned.path.words.reduce((sum, w) => sum + w.end - w.start, 0)
    const meant = learned.path.words.reduce((sum, w) => sum + reference.words[w.word]!.end - reference.words[w.word]!.start, 0)
    if (pass === 0 && meant > 0) reference = stretchReference(reference, Math.min(1.5, Math.max(0.67, said / meant)))
    const adapted = adapt(heard.features, reference, learned.path, () => true)
    if (!adapted) break
    const { fitting, random: unlike, features, reference: judged } = adapted
    const garbage = fitting + ADAPTED_COSTS.garbage * (unlike - fitting)
    const found = search(features, heard.active, judged, { ...ADAPTED_COSTS, unlike, garbage })
    learned = { heard, features, reference: judged, path: found, fitting, unlike }
  }
  return learned
}

/**
 * @param take as `extractFeatures` hears it
 * @param sentences of the script, in order, without empty ones
 * @param notWords where a voice is heard and no words are, as in an "um", seconds
 * @returns times in seconds of the recording
 * @throws Error of the synthesiser when it cannot speak the language
 */
export const align = (
  take: Take,
  sentences: readonly string[],
  synthesiser: Synthesiser,
  notWords: readonly Stretch[] = [],
): Alignment => alignmentOf(sentences, learnSpeaker(take, sentences, synthesiser, notWords))

/** @param learned null where nobody speaks */
export function alignmentOf(sentences: readonly string[], learned: Learned | null): Alignment {
  if (!learned)
    return {
      sentences: sentences.map((text, i) => ({ i, text, skipped: true, confidence: 0, needsReview: false, spans: [] })),
      offScript: [],
    }
  const { heard, path, reference, fitting, unlike } = learned
  return describe(sentences, path, reference, heard, (cost) => {
    const z = (cost - fitting) / Math.max(0.05, unlike - fitting)
    return 1 / (1 + Math.exp(14 * (z - 0.5)))
  })
}

/** How much slower than the reference most sentences were said. */
function middleRate(spans: readonly Utterance[], reference: Reference): number {
  const rates = spans.map(({ words }) => spokenRate(words, reference)).sort((a, b) => a - b)
  return rates[rates.length >> 1] ?? 1
}

/** The path in words and seconds. */
function describe(
  sentences: readonly string[],
  path: Path,
  reference: Reference,
  heard: Heard,
  confidenceOf: (cost: number) => number,
): Alignment {
  const found = onlySayings(path, reference, heard, confidenceOf)
  const usualRate = middleRate(found.spans, reference)
  const { spans, strange } = recoverSayings(found.spans, found.strange, reference, heard, usualRate)
  const snapped = snapWords(
    spans.map((group) => group.words),
    heard.audible,
    heard.levels,
    strange,
  )
  const bySentence: AlignedSentence[] = sentences.map((text, i) => ({
    i,
    text,
    skipped: true,
    confidence: 0,
    needsReview: false,
    spans: [],
  }))
  const rates = spans.map((group) => spokenRate(group.words, reference))
  const odd = sentences.map(() => false)
  for (const [g, group] of spans.entries()) {
    const { end } = reference.sentences[group.sentence]!
    const last = group.words.at(-1)!.word
    const words = snapped[g]!.map(({ word, start, end: to }): AlignedWord => {
      const { index, text } = reference.words[word]!
      return { k: index, w: text, start: start / FRAMES_A_SECOND, end: to / FRAMES_A_SECOND }
    })
    const target = bySentence[group.sentence]!
    target.spans.push({
      start: words[0]!.start,
      end: words.at(-1)!.end,
      partial: last < end - 1,
      words,
    })
    if (rates[g]! > usualRate * ODD_RATE || rates[g]! < usualRate / ODD_RATE) odd[group.sentence] = true
    // the piece may be the other's
    for (const other of [g - 1, g + 1]) {
      if (!spans[other] || !isTorn(snapped[g]!, snapped[other]!)) continue
      odd[group.sentence] = true
      odd[spans[other].sentence] = true
    }
    const from = group.words[0]!.start
    const to = group.words.at(-1)!.end
    // what a hard room answers may have been taken for a soft ending
    const ending = snapped[g]!.at(-1)!
    if (ending.end - heard.clear.lastIndexOf(1, ending.end - 1) > LONGEST_FADE) odd[group.sentence] = true
    if (hasCompetingSegment(group, spans[g - 1], spans[g + 1], strange)) odd[group.sentence] = true
    // it may have taken a piece of what is strange, or lost one to it
    if (strange.some((s) => s.end > s.start && s.start <= to + NO_REST && s.end >= from - NO_REST)) odd[group.sentence] = true
  }
  for (const [i, sentence] of bySentence.entries()) {
    const whole = rates.filter(
      (_, g) => spans[g]!.sentence === i && spans[g]!.words.at(-1)!.word === reference.sentences[i]!.end - 1,
    )
    if (sentence.spans.length > 1 && Math.max(...whole) > ODD_REPEAT * Math.min(...whole)) odd[i] = true
  }
  for (const sentence of bySentence) {
    const whole = sentence.spans.some((span) => !span.partial)
    sentence.skipped = sentence.spans.length === 0
    const utterances = spans.filter((utterance) => utterance.sentence === sentence.i).map((utterance) => utterance.confidence)
    sentence.confidence = Math.round(100 * (utterances.length > 0 ? Math.min(...utterances) : 0)) / 100
    sentence.needsReview = !sentence.skipped && (sentence.confidence < DOUBTFUL || !whole || odd[sentence.i]!)
  }
  const offScript = strange
    .map(({ start, end }) => ({ start, end, spoken: heard.active.subarray(start, end).reduce((sum, on) => sum + on, 0) }))
    .filter(({ spoken }) => spoken / FRAMES_A_SECOND >= SHORTEST_EXTRA_S)
    .map(({ start, end }) => trimmed(heard.active, start, end))
  return { sentences: bySentence, offScript }
}

/** A stretch without the silence at its ends, seconds. */
function trimmed(active: Uint8Array, start: number, end: number) {
  let [from, to] = [start, end]
  while (from < to && !active[from]) from++
  while (to > from && !active[to - 1]) to--
  return { start: from / FRAMES_A_SECOND, end: to / FRAMES_A_SECOND }
}
