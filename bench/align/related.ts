/**
 * `npm run bench -- related`: how near to the truth captions are timed when a language is read by the voice of a related one, on real voices
 * with known words. What a language without a voice of its own may hope for is what these have when theirs is taken away.
 */
import type { BenchOptions, Figure } from '#bench/report/report.ts'
import { usualCleaning } from '#core/audio/render/render.ts'
import { findHum } from '#core/audio/repair/hum.ts'
import { align } from '#core/captions/align/align.ts'
import { extractFeatures } from '#core/captions/align/extract-features.ts'
import { openSynthesiser } from '#server/speech/synthesiser.ts'
import { hasPrompts, PROMPT_PACKAGES, type PromptLanguage } from '../speech/prompts.ts'
import { makeCase } from './corpus.ts'
import { judge, noErrors, quantileMs } from './measure.ts'

const USUAL_ROUNDS = 3
/** Spoken, and whose voices read it: its own, related ones, and one of another family. */
const PAIRS: Record<PromptLanguage, readonly string[]> = {
  es: ['es', 'pt-pt', 'ca', 'it', 'fi'],
  fr: ['fr', 'ca', 'it', 'es', 'fi'],
  en: ['en', 'nl', 'af', 'sv', 'tr'],
}

export async function bench({ seed, rounds }: BenchOptions): Promise<Figure[]> {
  if (!hasPrompts()) throw new Error(`This bench speaks with Debian's voices: apt-get install ${PROMPT_PACKAGES.join(' ')}`)
  const figures: Figure[] = []
  for (const [language, voices] of Object.entries(PAIRS) as [PromptLanguage, readonly string[]][])
    for (const voice of voices) {
      const errors = noErrors()
      for (let round = 0; round < (rounds ?? USUAL_ROUNDS); round++)
        for (const kind of ['plain', 'skip'] as const) {
          const made = makeCase(language, kind, 1000 * seed + 31 * round, null)
          const heard = extractFeatures(made.samples, usualCleaning(), findHum(made.samples))
          judge(errors, made, align(heard, made.script, (await openSynthesiser(voice))!))
        }
      const told = (name: string, value: number, unit: string): Figure => ({
        name: `${language} read by ${voice}: ${name}`,
        value,
        goal: '–',
        unit,
        ok: null,
      })
      figures.push(
        told('start, 95th', quantileMs(errors.starts, 0.95), 'ms'),
        told('off by more than 250 ms', (100 * errors.gross) / errors.sayings, `% of ${errors.sayings}`),
        told('of them without a mark', (100 * errors.grossUnflagged) / errors.sayings, '%'),
      )
    }
  return figures
}
