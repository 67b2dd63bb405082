/** Long recordings of real voices, joined with logged pauses, divided again: how many changes of slide land in their true pause? */

import type { Figure } from '#bench/report/report.ts'
import { speechIn } from '#core/audio/analysis/detect-streaming.ts'
import type { SampleRange } from '#core/model/sample-range.ts'
import { speakingWeight } from '#core/script/syllables.ts'
import { toSamples } from '#core/timing/clocks.ts'
import { type Boundary, proposeBoundaries } from '#core/timing/division/split.ts'
import { lay, noise, random } from '#tests/made/sound.ts'
import { PROMPT_LANGUAGES, type Prompt, type PromptLanguage, prompts } from '../speech/prompts.ts'
import { decode, phrase } from '../tidy/corpus.ts'

const SLIDES = 8
/** Seconds. */
const PAUSE_INSIDE = [0.25, 0.7] as const
const PAUSE_BETWEEN = [0.8, 2] as const

interface Joined {
  samples: Float32Array
  joins: SampleRange[]
  scripts: string[]
  language: PromptLanguage
}

function join(language: PromptLanguage, all: Prompt[], next: () => number): Joined {
  const between = ([low, high]: readonly [number, number]) => toSamples(low + (high - low) * next())
  const pieces: { sound: Float32Array; at: number }[] = []
  const joins: SampleRange[] = []
  const scripts: string[] = []
  let at = toSamples(0.5)
  for (let s = 0; s < SLIDES; s++) {
    const count = 2 + Math.floor(next() * 5)
    const texts: string[] = []
    for (let k = 0; k < count; k++) {
      const prompt = all[Math.floor(next() * all.length)]!
      const sound = phrase(decode(prompt.path))
      pieces.push({ sound, at })
      texts.push(prompt.text)
      at += sound.length
      const pause = k < count - 1 ? between(PAUSE_INSIDE) : between(PAUSE_BETWEEN)
      if (k === count - 1 && s < SLIDES - 1) joins.push({ start: at, end: at + pause })
      at += pause
    }
    scripts.push(texts.join(' '))
  }
  const samples = noise(0.0005, at, 1 + Math.floor(next() * 1e6))
  for (const piece of pieces) lay(samples, piece.sound, piece.at)
  return { samples, joins, scripts, language }
}

const right = (found: readonly Boundary[], joins: readonly SampleRange[]) =>
  found.filter((b, i) => b.at >= joins[i]!.start && b.at <= joins[i]!.end).length

export function splitFigures(seed: number, rounds: number): Figure[] {
  const next = random(seed)
  const counts = { total: 0, scripts: 0, marks: 0, pauses: 0 }
  for (let round = 0; round < rounds; round++) {
    for (const language of PROMPT_LANGUAGES) {
      const made = join(language, prompts(language, 5), next)
      const speech = speechIn(made.samples)
      const marks = made.joins.map((j) => (j.start + j.end) / 2 + toSamples(3 * next() - 1.5)).sort((a, b) => a - b)
      const weights = made.scripts.map((script) => speakingWeight(script, language))
      counts.total += made.joins.length
      counts.scripts += right(proposeBoundaries(speech, { from: 'scripts', weights }), made.joins)
      counts.marks += right(proposeBoundaries(speech, { from: 'marks', marks }), made.joins)
      counts.pauses += right(proposeBoundaries(speech, { from: 'pauses', slides: SLIDES }), made.joins)
    }
  }
  const share = (name: string, value: number, goal: number): Figure => ({
    name,
    value: (100 * value) / counts.total,
    goal: goal === 100 ? '100' : `≥ ${goal}`,
    unit: `% of ${counts.total}`,
    ok: (100 * value) / counts.total >= goal,
  })
  return [
    share('changes in their true pause, with scripts', counts.scripts, 100),
    share('changes in their true pause, marks ±1.5 s', counts.marks, 95),
    share('changes in their true pause, number of slides only', counts.pauses, 90),
  ]
}
