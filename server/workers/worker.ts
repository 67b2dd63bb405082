/** What runs in worker threads: long computation only, nothing that knows the database. */
import { readFile } from 'node:fs/promises'
import type { MessagePort } from 'node:worker_threads'
import { suggestTidyUp } from '#core/audio/analyse.ts'
import { speechIn } from '#core/audio/listen.ts'
import { integratedLoudness } from '#core/audio/loudness.ts'
import { mixSlide } from '#core/audio/mix.ts'
import { fromInt16, toInt16 } from '#core/audio/pcm.ts'
import { peaksOf } from '#core/audio/peaks.ts'
import { cutSlips } from '#core/audio/recipe.ts'
import { type CleaningRecipe, cleanTake, render, tidyFresh } from '#core/audio/render.ts'
import { spectrogramOf } from '#core/audio/spectrogram.ts'
import { type Alignment, align as alignWords } from '#core/captions/align/align.ts'
import { pageAltText, pageTitle } from '#core/deck/title.ts'
import type { ClipFigures, Mark, Stretch, TakeAnalysis, TidyUp } from '#core/lecture.ts'
import { openPdf } from '#server/import/pdf.ts'
import { type KeptPicture, keepPicture } from '#server/import/picture.ts'
import { Sentence } from '#server/sentence.ts'
import { openSynthesiser } from '#server/speech/synthesiser.ts'
import { folderStore } from '#server/store/file-store.ts'

export interface TidyInput {
  samples: Int16Array
  /** What is known already; null to find it. */
  analysis: TakeAnalysis | null
  /** null to suggest one. */
  tidyUp: TidyUp | null
  /** Told by keys while it was recorded. */
  marks: readonly Mark[]
  /** Whether to draw the take's spectrogram as well. */
  draw: boolean
}

export interface TidyOutput {
  analysis: TakeAnalysis
  tidyUp: TidyUp
  clip: Int16Array
  peaks: Int16Array
  /** Of the whole take; null when its picture was not asked for. */
  spectrogram: Uint8Array | null
  figures: ClipFigures
}

export function tidy({ samples, analysis, tidyUp, marks, draw }: TidyInput): TidyOutput {
  const floats = fromInt16(samples)
  const tidied = analysis
    ? withRecipe(floats, analysis, tidyUp ?? cutSlips(suggestTidyUp(analysis, samples.length), marks))
    : tidyFresh(floats, (suggested) => tidyUp ?? cutSlips(suggested, marks))
  const clip = toInt16(tidied.clip)
  return { ...tidied, clip, peaks: peaksOf(clip), spectrogram: draw ? spectrogramOf(floats) : null }
}

function withRecipe(samples: Float32Array, analysis: TakeAnalysis, tidyUp: TidyUp) {
  return { analysis, tidyUp, ...render(samples, tidyUp, analysis) }
}

export interface ListenInput {
  samples: Int16Array
  /** Receives how far it is, 0 to 1. */
  progress: MessagePort
}

/** Speech and waveform of a long recording. */
export function listen({ samples, progress }: ListenInput): { speech: Stretch[]; peaks: Int16Array } {
  try {
    return { speech: speechIn(samples, (part) => progress.postMessage(part)), peaks: peaksOf(samples) }
  } finally {
    progress.close()
  }
}

export interface BedOutput {
  /** Left and right in turn, with edges soft enough to loop without a click. */
  interleaved: Int16Array
  peaks: Int16Array
  loudnessLufs: number | null
}

const BED_EDGE = 480

export function bed({ left, right }: { left: Int16Array; right: Int16Array }): BedOutput {
  const interleaved = new Int16Array(left.length * 2)
  const middle = new Int16Array(left.length)
  for (let i = 0; i < left.length; i++) {
    const edge = Math.min(1, (i + 0.5) / BED_EDGE, (left.length - i - 0.5) / BED_EDGE)
    interleaved[2 * i] = Math.round(left[i]! * edge)
    interleaved[2 * i + 1] = Math.round(right[i]! * edge)
    middle[i] = Math.round((interleaved[2 * i]! + interleaved[2 * i + 1]!) / 2)
  }
  const loudness = integratedLoudness([fromInt16(left), fromInt16(right)])
  return { interleaved, peaks: peaksOf(middle), loudnessLufs: Number.isFinite(loudness) ? loudness : null }
}

export interface AlignInput {
  samples: Int16Array
  sentences: string[]
  language: string
  recipe: CleaningRecipe
  humHz: number | null
}

/** @returns null when there is no voice for the language */
export async function align({ samples, sentences, language, recipe, humHz }: AlignInput): Promise<Alignment | null> {
  const synthesiser = await openSynthesiser(language)
  if (!synthesiser) return null
  // weak words are found only where the room is quiet, whatever strength was chosen for the ear
  const cleaned = cleanTake(fromInt16(samples), { ...recipe, cleaning: Math.max(0.6, recipe.cleaning) }, humHz)
  return alignWords(cleaned.samples, sentences, synthesiser)
}

/** The sound of one slide, ready to be encoded. */
export const mix = mixSlide

export interface PdfInput {
  name: string
  path: string
  dataFolder: string
  /** Receives `PageDone` for each page. */
  progress: MessagePort
}

export interface PageDone {
  page: number
  pages: number
}

export type ImportedPage = KeptPicture & { title: string; altText: string }

/** @returns pages, or what to tell the person: errors lose their kind on the way between threads */
export async function pdf({
  name,
  path,
  dataFolder,
  progress,
}: PdfInput): Promise<{ pages: ImportedPage[] } | { sentence: string }> {
  const store = folderStore(dataFolder)
  try {
    const document = await openPdf(name, await readFile(path))
    try {
      const pages: ImportedPage[] = []
      for (let i = 0; i < document.pages; i++) {
        const { text, ...drawn } = document.page(i)
        pages.push({ ...(await keepPicture(store, drawn)), title: pageTitle(text), altText: pageAltText(text) })
        progress.postMessage({ page: i + 1, pages: document.pages } satisfies PageDone)
      }
      return { pages }
    } finally {
      document.close()
    }
  } catch (error) {
    if (error instanceof Sentence) return { sentence: error.message }
    throw error
  } finally {
    progress.close()
  }
}
