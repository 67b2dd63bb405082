/**
 * Starts of single words against the truth: voices of Debian's flite, which tells when each of its phones begins. Which phones are
 * whose is known by speaking each word alone; sentences in which the numbers of phones differ are left out.
 */
import { execFileSync } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { usualCleaning } from '#core/audio/render/render.ts'
import { findHum } from '#core/audio/repair/hum.ts'
import { align } from '#core/captions/align/align.ts'
import { extractFeatures } from '#core/captions/align/extract-features.ts'
import { sentences } from '#core/script/sentences.ts'
import { DEMO_SLIDES } from '#demo/lecture.ts'
import { ffmpegAt } from '#server/media/ffmpeg.ts'
import { readSound } from '#server/media/read-sound.ts'
import { openSynthesiser } from '#server/speech/synthesiser.ts'

const VOICES = ['slt', 'rms', 'awb', 'kal16']

export function hasFlite(): boolean {
  try {
    return execFileSync('flite', ['-lv'], { encoding: 'utf8' }).includes('slt')
  } catch {
    return false
  }
}

interface Phone {
  name: string
  end: number
}

function phones(voice: string, text: string, path: string): Phone[] {
  const told = execFileSync('flite', ['-voice', voice, '-t', text, '-psdur', '-o', path], { encoding: 'utf8' })
  return told
    .trim()
    .split(/\s+/)
    .map((item) => ({ name: item.split(':')[0]!, end: Number(item.split(':')[1]) }))
}

/** Where a word is in what a voice says, seconds. */
export interface SpokenTruth {
  start: number
  end: number
}

/** Where each space-separated word is; null when the words' phones do not add up. @param path of a file that may be written over */
export function spokenTruth(voice: string, text: string, path: string): SpokenTruth[] | null {
  const words = text.split(' ')
  const counts = words.map((word) => phones(voice, word, '/dev/null').filter((p) => p.name !== 'pau').length)
  const all = phones(voice, text, path)
  const spoken = all.flatMap((phone, i) =>
    phone.name === 'pau' ? [] : [{ start: i === 0 ? 0 : all[i - 1]!.end, end: phone.end }],
  )
  if (counts.reduce((a, b) => a + b, 0) !== spoken.length) return null
  let at = 0
  return counts.map((count) => {
    const [first, last] = [spoken[at]!, spoken[at + count - 1]!]
    at += count
    return { start: first.start, end: last.end }
  })
}

/** @returns errors of word starts, seconds */
export async function wordErrors(): Promise<number[]> {
  const folder = mkdtempSync(join(tmpdir(), 'lectern-words-'))
  const path = join(folder, 'said.wav')
  const errors: number[] = []
  try {
    for (const voice of VOICES)
      for (const text of DEMO_SLIDES.flatMap((slide) => sentences(slide.script, 'en')).slice(0, 12)) {
        const truth = spokenTruth(voice, text, path)
        if (!truth) continue
        const { samples } = await readSound(ffmpegAt('ffmpeg'), path)
        const heard = extractFeatures(samples, usualCleaning(), findHum(samples))
        const [found] = align(heard, [text], (await openSynthesiser('en'))!).sentences
        for (const word of found!.spans.at(-1)?.words ?? []) errors.push(word.start - truth[word.k]!.start)
      }
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
  return errors
}
