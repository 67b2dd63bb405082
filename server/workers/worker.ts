/** What runs in worker threads: long computation only, nothing that knows the database. */
import { randomUUID } from 'node:crypto'
import { closeSync, openSync, writeSync } from 'node:fs'
import { join } from 'node:path'
import type { MessagePort } from 'node:worker_threads'
import { analyse } from '#core/audio/analysis/analyse.ts'
import { speechIn } from '#core/audio/analysis/detect-streaming.ts'
import { type BlockFigures, blockFigures, joinFigures } from '#core/audio/analysis/take-measurements.ts'
import { type Block, blockJoiner, blocksOf, type Cleaned, type CleanedBlock } from '#core/audio/denoise/denoise.ts'
import { blockPowers, blocksOfSteps, loudnessOfBlocks, STEP, stepPowers } from '#core/audio/loudness/loudness.ts'
import { truePeak } from '#core/audio/loudness/true-peak.ts'
import { mixSlide, PRE_ROLL_SAMPLES, type SlideMix } from '#core/audio/mix/mix.ts'
import {
  type CleaningRecipe,
  cleaningOf,
  cleanTakeBlock,
  clipFigures,
  render,
  type TakeCleaning,
  usualCleaning,
} from '#core/audio/render/render.ts'
import { declick } from '#core/audio/repair/clicks.ts'
import { findHum, HUM_HEARD } from '#core/audio/repair/hum.ts'
import { fromInt16, toInt16 } from '#core/audio/signal/pcm.ts'
import { chunksOf, type SampleAllocator, type Samples } from '#core/audio/signal/sample-source.ts'
import { spectrogramOf } from '#core/audio/signal/spectrogram.ts'
import { peaksOfPieces } from '#core/audio/signal/waveform.ts'
import { findSpeech } from '#core/audio/speech/voice-activity.ts'
import { cutSlips } from '#core/audio/tidy-up/edit.ts'
import { suggestTidyUp } from '#core/audio/tidy-up/suggest.ts'
import { type Alignment, alignmentOf, learnSpeaker } from '#core/captions/align/align.ts'
import { extractFeatures } from '#core/captions/align/extract-features.ts'
import { makeReference, REFERENCE_STEPS, type ReferenceWord } from '#core/captions/align/reference.ts'
import { type WordPath, wordPath } from '#core/captions/reading/word-path.ts'
import { heardSounds, surelyNoWords } from '#core/captions/spoken/heard-sounds.ts'
import type { Mark } from '#core/model/marks.ts'
import type { SampleRange } from '#core/model/sample-range.ts'
import type { ClipFigures, HeardSound, TakeAnalysis } from '#core/model/take.ts'
import type { TidyUp } from '#core/model/tidy-up.ts'
import { SAMPLE_RATE } from '#core/timing/clocks.ts'
import { floatsOf, type Pcm, piecesOf, spillPcm } from '#server/media/pcm.ts'
import { namedSampleFile, readBytes, type SampleFile } from '#server/media/sample-file.ts'
import { bytesOf } from '#server/media/sound-files.ts'
import { openSynthesiser } from '#server/speech/synthesiser.ts'
import { loadVoiceModel } from './load-voice-model.ts'

loadVoiceModel()

export interface TidyInput {
  samples: Pcm
  /** What is known already; null to find it. */
  analysis: TakeAnalysis | null
  /** null to suggest one. */
  tidyUp: TidyUp | null
  /** Told by keys while it was recorded. */
  marks: readonly Mark[]
  /** A folder for what a long take becomes, its clip too: whoever asks removes it. null when all is to be in memory. */
  spillFolder: string | null
}

export interface TidyOutput {
  analysis: TakeAnalysis
  tidyUp: TidyUp
  clip: Pcm
  gainDb: number
  gainReductionDb: number
}

/** What is told of a clip. */
export interface Measured {
  peaks: Int16Array
  figures: ClipFigures
  /** Of the clip's blocks, for the loudness of a whole lecture. */
  powers: number[]
}

const rounded = (powers: readonly number[]) => powers.map((power) => Number(power.toPrecision(4)))
/** Steps of silence before and after a clip on its slide at least: blocks across its edges count as well. */
const EDGE = 3 * STEP
/** @returns a voice between such silence */
const onSlide = (voice: Samples): Samples => ({
  length: voice.length + 2 * EDGE,
  subarray(from, to) {
    const out = new Float32Array(Math.max(0, Math.min(to, voice.length + 2 * EDGE) - from))
    const [first, end] = [Math.max(from, EDGE), Math.min(from + out.length, EDGE + voice.length)]
    if (end > first) out.set(voice.subarray(first - EDGE, end - EDGE), first - from)
    return out
  },
})

/** The first step of tidying: what must be known before blocks can be cleaned by themselves. */
export function readyToTidy({ samples, analysis, tidyUp }: Pick<TidyInput, 'samples' | 'analysis' | 'tidyUp'>): TakeCleaning {
  const recorded = floatsOf(samples)
  const humHz = analysis ? analysis.humHz : findHum(recorded.subarray(0, Math.min(recorded.length, HUM_HEARD)))
  return cleaningOf(recorded, tidyUp ?? usualCleaning(), humHz)
}

export interface BlockInput {
  /** What the block is heard from. */
  recorded: Int16Array
  block: Block
  cleaning: TakeCleaning
  /** Whether it is to be measured as it was recorded, too. */
  measured: boolean
}

export interface TidiedBlock extends CleanedBlock {
  /** null where it was not to be measured. */
  figures: BlockFigures | null
}

/** The second step, for one block. */
export function tidyBlock({ recorded, block, cleaning, measured }: BlockInput): TidiedBlock {
  const samples = fromInt16(recorded)
  return { ...cleanTakeBlock(samples, block, cleaning), figures: measured ? blockFigures(samples, block) : null }
}

/** Tidies a made-up sound, so that this thread has done each step before somebody waits for it. */
export function rehearse(): void {
  const samples = new Int16Array(5 * SAMPLE_RATE)
  // bursts of something like a voice, loud enough to be limited, over something like a room
  for (let i = 0; i < samples.length; i++) {
    const burst = i % SAMPLE_RATE < SAMPLE_RATE / 2 && Math.sin(i / 60) * Math.sin(i / 9) * 30_000
    samples[i] = (burst || 0) + 40 * Math.sin(i * i)
  }
  const input = { samples, analysis: null, tidyUp: null, marks: [], spillFolder: null }
  const cleaning = readyToTidy(input)
  const joiner = blockJoiner(samples.length, new Float32Array(samples.length))
  const figures: BlockFigures[] = []
  for (const block of blocksOf(samples.length)) {
    const tidied = tidyBlock({ recorded: samples.slice(block.from, block.to), block, cleaning, measured: true })
    joiner.add(tidied)
    figures.push(tidied.figures!)
  }
  measureClip(tidyJoined({ ...input, humHz: cleaning.humHz, cleaned: joiner.joined, figures }))
}

export interface JoinInput extends TidyInput {
  humHz: number | null
  /** Its samples are changed; their file's name when they were spilled to disk. */
  cleaned: Cleaned<Float32Array | string>
  /** Of its blocks as they were recorded, where the take is not known. */
  figures: BlockFigures[]
}

/** The third step: all blocks together. */
export function tidyJoined({ samples, analysis, tidyUp, marks, spillFolder, humHz, cleaned, figures }: JoinInput): TidyOutput {
  const { length } = samples
  const opened: SampleFile[] = []
  const open = (path: string, count: number) => {
    const file = namedSampleFile(path, count)
    opened.push(file)
    return file
  }
  const allocate: SampleAllocator = (count) =>
    spillFolder === null ? new Float32Array(count) : open(join(spillFolder, randomUUID()), count)
  try {
    const whole = typeof cleaned.samples === 'string' ? open(cleaned.samples, length) : cleaned.samples
    if ((tidyUp ?? usualCleaning()).clicks) declick(whole, findSpeech(cleaned.voiceProbability, length))
    const found = analysis ?? analyse(floatsOf(samples), cleaned.speechProbability, humHz, joinFigures(figures))
    const recipe = tidyUp ?? cutSlips(suggestTidyUp(found, length), marks)
    const { clip, ...gains } = render(whole, recipe, found.speech, allocate)
    const kept = spillFolder === null ? toInt16(clip.subarray(0, clip.length)) : spillPcm(join(spillFolder, randomUUID()), clip)
    return { analysis: found, tidyUp: recipe, clip: kept, ...gains }
  } finally {
    for (const file of opened) file.close()
  }
}

/** The last step, which nobody has to wait for who needs the clip. */
export function measureClip({ clip, tidyUp, analysis, ...gains }: TidyOutput): Measured {
  const floats = floatsOf(clip)
  const steps = stepPowers(onSlide(floats))
  const own = steps.subarray(EDGE / STEP, EDGE / STEP + Math.floor(clip.length / STEP))
  return {
    peaks: peaksOfPieces(piecesOf(clip), clip.length),
    figures: clipFigures({ clip: floats, ...gains }, tidyUp, analysis.speech, own),
    // of one voice from two loudspeakers
    powers: rounded(blocksOfSteps([steps]).map((power) => 2 * power)),
  }
}

/** The picture of a whole take. */
export const spectrogram = (samples: Pcm): Uint8Array => spectrogramOf(floatsOf(samples))

export interface ListenInput {
  samples: Pcm
  /** Receives how far it is, 0 to 1. */
  progress: MessagePort
}

/** Speech and waveform of a long recording. */
export function listen({ samples, progress }: ListenInput): { speech: SampleRange[]; peaks: Int16Array } {
  try {
    const speech = speechIn(floatsOf(samples), (part) => progress.postMessage(part))
    return { speech, peaks: peaksOfPieces(piecesOf(samples), samples.length) }
  } finally {
    progress.close()
  }
}

export interface BedInput {
  /** A file of 16-bit samples, left and right in turn; its edges are made soft, so that it loops without a click. */
  path: string
  /** Of each side, samples. */
  length: number
}

export interface BedOutput {
  peaks: Int16Array
  loudnessLufs: number | null
}

const BED_EDGE = 480

export function bed({ path, length }: BedInput): BedOutput {
  const file = openSync(path, 'r+')
  const frames = (from: number, to: number) => {
    const both = new Int16Array(2 * Math.max(0, Math.min(to, length) - from))
    readBytes(file, 4 * from, bytesOf(both))
    return both
  }
  try {
    const edge = Math.min(BED_EDGE, length)
    const soften = (from: number, gain: (i: number) => number) => {
      const both = frames(from, from + edge)
      for (let i = 0; i < both.length; i++) both[i] = Math.round(both[i]! * gain(i >> 1))
      writeSync(file, bytesOf(both), 0, 4 * edge, 4 * from)
    }
    soften(0, (i) => Math.min(1, (i + 0.5) / BED_EDGE))
    soften(length - edge, (i) => Math.min(1, (edge - i - 0.5) / BED_EDGE))
    const side = (channel: 0 | 1): Samples => ({
      length,
      subarray(from, to) {
        const both = frames(from, to)
        return Float32Array.from({ length: both.length / 2 }, (_, i) => both[2 * i + channel]! / 32768)
      },
    })
    const middle = function* () {
      for (const { start, end } of chunksOf(length)) {
        const both = frames(start, end)
        yield Int16Array.from({ length: both.length / 2 }, (_, i) => Math.round((both[2 * i]! + both[2 * i + 1]!) / 2))
      }
    }
    const loudness = loudnessOfBlocks(blocksOfSteps([stepPowers(side(0)), stepPowers(side(1))]))
    return { peaks: peaksOfPieces(middle(), length), loudnessLufs: Number.isFinite(loudness) ? loudness : null }
  } finally {
    closeSync(file)
  }
}

export interface SeekInput {
  samples: Pcm
  /** Whose words are sought; none where only sounds are. */
  sentences: string[]
  language: string
  recipe: CleaningRecipe
  humHz: number | null
  /** It is known for each word by itself whether it was read. */
  isReading?: boolean
}

export interface SoughtWords {
  /** null when there is no voice for the language, or nothing was sought. */
  alignment: Alignment | null
  sounds: HeardSound[]
  /** null where it was not asked for. */
  reading: WordPath | null
}

/** Where no words are sought a take is listened to in pieces so long, so that a recording of hours takes no more memory. Samples. */
const LISTENED_AT_ONCE = 20 * 60 * SAMPLE_RATE

/** What is heard between words that nobody knows. */
function soundsAlone(take: Samples, recipe: CleaningRecipe, humHz: number | null): HeardSound[] {
  const sounds: HeardSound[] = []
  for (let from = 0; from < take.length; from += LISTENED_AT_ONCE) {
    const length = Math.min(LISTENED_AT_ONCE, take.length - from)
    const piece: Samples = { length, subarray: (start, end) => take.subarray(from + start, from + end) }
    const heard = heardSounds(extractFeatures(piece, take.length > length ? { ...recipe, roomTone: null } : recipe, humHz))
    const offset = from / SAMPLE_RATE
    for (const sound of heard) sounds.push({ ...sound, start: sound.start + offset, end: sound.end + offset })
  }
  return sounds
}

/** Seeks the words of a script in a take, and what is heard between words. */
export async function seekWords({ samples, sentences, language, recipe, humHz, isReading }: SeekInput): Promise<SoughtWords> {
  const synthesiser = sentences.length > 0 ? await openSynthesiser(language) : null
  if (!synthesiser) return { alignment: null, sounds: soundsAlone(floatsOf(samples), recipe, humHz), reading: null }
  const heard = extractFeatures(floatsOf(samples), recipe, humHz)
  const sounds = heardSounds(heard)
  const learned = learnSpeaker(heard, sentences, synthesiser, surelyNoWords(sounds))
  return { alignment: alignmentOf(sentences, learned), sounds, reading: isReading && learned ? wordPath(learned) : null }
}

export interface SpokenScript {
  words: ReferenceWord[]
  sentences: { first: number; end: number }[]
  frames: number
  /** Normalised, in steps of 1/8000. */
  features: Int16Array
}

/** A script as the synthesiser says it, for a page that follows who reads it out. @returns null when there is no voice for the language */
export async function speakScript({
  sentences,
  language,
}: {
  sentences: string[]
  language: string
}): Promise<SpokenScript | null> {
  const synthesiser = await openSynthesiser(language)
  if (!synthesiser) return null
  const { features, ...rest } = makeReference(sentences, synthesiser)
  return { ...rest, features: Int16Array.from(features, (value) => Math.round(value * REFERENCE_STEPS)) }
}

export interface Mixed {
  /** Left and right in turn. */
  stereo: Int16Array
  /** Of the slide itself, for the loudness of the whole. */
  powers: number[]
  /** null for silence. */
  truePeakDbtp: number | null
}

/** The sound of one slide, ready to be encoded. */
export function mix(input: SlideMix): Mixed {
  const stereo = mixSlide(input)
  const side = (channel: 0 | 1) => {
    const samples = new Float32Array(input.lengthSamples)
    for (let i = 0; i < samples.length; i++) samples[i] = stereo[2 * (PRE_ROLL_SAMPLES + i) + channel]! / 32768
    return samples
  }
  const [left, right] = [side(0), side(1)]
  const peak = Math.max(truePeak(left), truePeak(right))
  return {
    stereo,
    powers: rounded(blockPowers([left, right])),
    truePeakDbtp: Number.isFinite(peak) ? Number(peak.toFixed(2)) : null,
  }
}
