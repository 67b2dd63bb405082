/** What the recordings of this bench have in common: which half a seed draws from, and pieces laid over a room. */
import { basename } from 'node:path'
import { rms } from '#core/audio/signal/pcm.ts'
import { lay } from '#tests/made/sound.ts'
import { type Prompt, type PromptLanguage, prompts } from '../speech/prompts.ts'
import { isHeldBack, room } from '../tidy/corpus.ts'

export interface LaidPiece {
  sound: Float32Array
  /** Samples. */
  at: number
}

/** Settings are chosen on odd seeds and reported on even ones: neither hears a prompt of the other. */
export const isForReport = (seed: number) => seed % 2 === 0

/** Prompts of one sentence, of the half that a seed draws from. */
export const promptsOfHalf = (language: PromptLanguage, seed: number): Prompt[] =>
  prompts(language, 5).filter(({ path }) => isHeldBack(basename(path)) === isForReport(seed))

/** Pieces over pink noise. @param length samples @param snr how far the noise lies under the pieces, dB */
export function overRoom(pieces: readonly LaidPiece[], length: number, seed: number, snr: number): Float32Array {
  const out = new Float32Array(length)
  for (const piece of pieces) lay(out, piece.sound, piece.at)
  const samples = pieces.reduce((sum, { sound }) => sum + sound.length, 0)
  const power = pieces.reduce((sum, { sound }) => sum + rms(sound) ** 2 * sound.length, 0) / Math.max(1, samples)
  const level = Math.sqrt(power) * 10 ** (-snr / 20)
  return lay(
    out,
    room('pink', length, seed).map((v) => v * level),
    0,
  )
}
