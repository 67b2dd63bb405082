/** `npm run bench -- words`: cuts on words, slips that are found by themselves, and filled pauses. Odd seeds are for choosing, even ones held back. */
import type { BenchOptions, Figure } from '#bench/report/report.ts'
import { usualCleaning } from '#core/audio/render/render.ts'
import { findHum } from '#core/audio/repair/hum.ts'
import { align } from '#core/captions/align/align.ts'
import { extractFeatures } from '#core/captions/align/extract-features.ts'
import { ownSounds } from '#core/captions/spoken/find-slips.ts'
import { heardSounds, surelyNoWords } from '#core/captions/spoken/heard-sounds.ts'
import { wordsOfAlignment } from '#core/captions/spoken/spoken-words.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { openSynthesiser } from '#server/speech/synthesiser.ts'
import { hasFlite } from '../align/words.ts'
import { hasPrompts, PROMPT_LANGUAGES, PROMPT_PACKAGES } from '../speech/prompts.ts'
import { type CutFigures, cutFigures } from './cuts.ts'
import { type Filled, realVoice, syntheticVoice } from './fillers.ts'
import { followingErrors } from './following.ts'
import { slipFigures } from './slips.ts'

const CUTS = 167
const FLITE = ['slt', 'rms', 'awb', 'kal16']

const percent = (part: number, whole: number) => (whole === 0 ? 0 : (100 * part) / whole)
const most = (name: string, value: number, goal: number, unit: string): Figure => ({
  name,
  value,
  goal: `≤ ${goal}`,
  unit,
  ok: value <= goal,
})
const least = (name: string, value: number, goal: number, unit: string): Figure => ({
  name,
  value,
  goal: `≥ ${goal}`,
  unit,
  ok: value >= goal,
})
const told = (name: string, value: number, unit: string): Figure => ({ name, value, goal: '–', unit, ok: null })

async function cuts(seed: number): Promise<Figure[]> {
  const figures = await cutFigures(CUTS, seed, seed % 2)
  const all = Object.values(figures)
  const sum = (get: (f: CutFigures) => number) => all.reduce((total, f) => total + get(f), 0)
  return [
    most(
      'cut on words: clicks at joins',
      sum((f) => f.clicks),
      0,
      `of ${sum((f) => f.cuts)}`,
    ),
    ...Object.entries(figures).flatMap(([place, f]) => [
      ...(place === 'no rest'
        ? [told(`${place}: words left by more than 20 ms`, percent(f.left, f.words), `% of ${f.words}`)]
        : [most(`${place}: words left by more than 20 ms`, percent(f.left, f.words), 1, `% of ${f.words}`)]),
      told(`${place}: words that stay and lost as much`, percent(f.taken, 2 * f.cuts), `% of ${2 * f.cuts}`),
    ]),
    most(
      'cuts with such a word that are not told',
      sum((f) => f.untold),
      0,
      `of ${sum((f) => f.cuts)}`,
    ),
  ]
}

async function slips(seed: number): Promise<Figure[]> {
  const figures: Figure[] = []
  for (const [name, snr] of [
    ['clean', 55],
    ['15 dB', 15],
  ] as const) {
    const seeds = [0, 1, 2, 3, 4, 5, 6, 7].map((n) => 2 * (1000 * seed + 7 * n + snr) + (seed % 2))
    const { anew, twice, false: wrong, sentences } = await slipFigures(PROMPT_LANGUAGES, seeds, snr)
    figures.push(
      least(`begun anew found, ${name}`, percent(anew.found, anew.true), 95, `% of ${anew.true}`),
      least(`said twice found, ${name}`, percent(twice.found, twice.true), 95, `% of ${twice.true}`),
      most(`the same, false, ${name}`, percent(wrong, sentences), 0.5, `% of ${sentences} sentences`),
    )
  }
  return figures
}

interface FillerCount {
  true: number
  found: number
  false: number
  words: number
  coughs: number
  /** Over which the aligner laid a word. */
  covered: number
}

async function countFillers(made: Filled, into: FillerCount) {
  const heard = extractFeatures(made.samples, usualCleaning(), findHum(made.samples))
  // as in the product: what is known to be words is none
  const sounds = heardSounds(heard)
  const words = wordsOfAlignment(align(heard, made.script, (await openSynthesiser(made.language))!, surelyNoWords(sounds)))
  const found = ownSounds(sounds, words)
  const filled = found.filter((s) => s.kind === 'filled-pause')
  const truth = made.fillers.map(({ start, end }) => ({ start: toSeconds(start), end: toSeconds(end) }))
  const isIn = (s: { start: number; end: number }, t: { start: number; end: number }) =>
    Math.min(s.end, t.end) - Math.max(s.start, t.start) > 0.5 * (s.end - s.start)
  into.true += truth.length
  into.found += truth.filter((t) => filled.some((s) => isIn(s, t))).length
  into.false += filled.filter((s) => !truth.some((t) => isIn(s, t))).length
  into.coughs += found.length - filled.length
  // in the middle of it somebody is said to speak
  const covered = truth.filter((t) =>
    words.some((w) => w.kind === 'script' && w.start < (t.start + t.end) / 2 && w.end > (t.start + t.end) / 2),
  )
  into.covered += covered.length
  into.words += made.words
}

async function fillers(seed: number): Promise<Figure[]> {
  const none = (): FillerCount => ({ true: 0, found: 0, false: 0, words: 0, coughs: 0, covered: 0 })
  const [held, spoken] = [none(), none()]
  // as odd or even as the seed itself
  const base = 20_000 * seed + (seed % 2)
  for (const language of PROMPT_LANGUAGES)
    for (let n = 0; n < 3; n++) {
      await countFillers(realVoice(language, base + 100 + 2 * n, 0.7), held)
      await countFillers(realVoice(language, base + 700 + 2 * n, 0.5, 15), held)
      await countFillers(realVoice(language, base + 300 + 2 * n, 0), held)
      await countFillers(await syntheticVoice(language, null, base + 400 + 2 * n, 0.6), spoken)
    }
  for (const [n, voice] of FLITE.entries()) await countFillers(await syntheticVoice('en', voice, base + 500 + 2 * n, 0.6), spoken)
  const [all, wrong, words] = [held.true + spoken.true, held.false + spoken.false, held.words + spoken.words]
  return [
    least('filled pauses found', percent(held.found + spoken.found, all), 90, `% of ${all}`),
    told('of them vowels held by real voices', percent(held.found, held.true), `% of ${held.true}`),
    told('of them um, er, euh, eh of synthetic voices', percent(spoken.found, spoken.true), `% of ${spoken.true}`),
    most('filled pauses, false', percent(wrong, words), 1, `% of ${words} words`),
    told('filled pauses with a word of the script laid over them', percent(held.covered + spoken.covered, all), `% of ${all}`),
    told('words taken for coughs', percent(held.coughs + spoken.coughs, words), `% of ${words}`),
  ]
}

async function following(seed: number): Promise<Figure[]> {
  const { byWords, byRests } = await followingErrors(seed, seed % 2)
  const at = (list: number[], part: number) => list.toSorted((a, b) => a - b)[Math.floor(part * list.length)] ?? 0
  return [
    told('script pane: words behind or ahead, median', at(byWords, 0.5), `of ${byWords.length} looks`),
    most('script pane: words behind or ahead, 95th', at(byWords, 0.95), 3, 'words'),
    told('the same by rests alone, 95th', at(byRests, 0.95), 'words'),
  ]
}

export async function bench({ seed }: BenchOptions): Promise<Figure[]> {
  if (!hasPrompts()) throw new Error(`This bench speaks with Debian's voices: apt-get install ${PROMPT_PACKAGES.join(' ')}`)
  if (!hasFlite()) throw new Error('This bench speaks with flite: apt-get install flite')
  return [...(await cuts(seed)), ...(await slips(seed)), ...(await fillers(seed)), ...(await following(seed))]
}
