/** How unlike the same words are that one speaker said twice, and other words of that speaker: prompts that were recorded more than once. */
import { unlikeness } from '#core/captions/align/dtw-distance.ts'
import { melOfSixteen, toSixteen } from '#core/captions/align/extract-features.ts'
import { activeFrames, cepstra, FRAMES_A_SECOND, frameLevels, saidFrames } from '#core/captions/align/features.ts'
import { SAMPLE_RATE, toSamples } from '#core/timing/clocks.ts'
import { lay, noise } from '#tests/made/sound.ts'
import { PROMPT_LANGUAGES, type Prompt, prompts } from '../speech/prompts.ts'
import { decode, phrase } from '../tidy/corpus.ts'

const OTHERS = 40

/** One recording of both, with rests. */
function between(a: Prompt, b: Prompt): number | null {
  const [first, second] = [phrase(decode(a.path)), phrase(decode(b.path))]
  const rest = toSamples(0.3)
  const both = noise(0.0001, first.length + second.length + 3 * rest, 1)
  lay(both, first, rest)
  lay(both, second, first.length + 2 * rest)
  const mel = melOfSixteen(toSixteen(both))
  const active = activeFrames(frameLevels(mel), saidFrames(null, mel.frames))
  const middle = Math.floor(((first.length + 1.5 * rest) / SAMPLE_RATE) * FRAMES_A_SECOND)
  return unlikeness(cepstra(mel, active), active, { start: 0, end: middle }, { start: middle, end: active.length })
}

/** @returns in order, from like to unlike */
export function likeness(): { same: number[]; other: number[] } {
  const same: (number | null)[] = []
  const other: (number | null)[] = []
  for (const language of PROMPT_LANGUAGES) {
    const all = prompts(language, 3)
    const words = ({ text }: Prompt) =>
      text
        .toLowerCase()
        .replace(/[^\p{L}\d ]/gu, '')
        .trim()
    const byWords = new Map<string, Prompt[]>()
    for (const prompt of all) byWords.set(words(prompt), [...(byWords.get(words(prompt)) ?? []), prompt])
    for (const [first, ...again] of byWords.values()) for (const prompt of again.slice(0, 2)) same.push(between(first!, prompt))
    for (let i = 0; i < OTHERS; i++) {
      const [a, b] = [all[(i * 37) % all.length]!, all[(i * 91 + 17) % all.length]!]
      if (words(a) !== words(b)) other.push(between(a, b))
    }
  }
  const sorted = (values: (number | null)[]) => values.filter((v) => v !== null).sort((a, b) => a - b)
  return { same: sorted(same), other: sorted(other) }
}
