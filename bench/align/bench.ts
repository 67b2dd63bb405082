/** `npm run bench -- align`: how near to the truth captions are timed, on real voices with known words, clean, slipping and in noise. */
import { chromium } from '@playwright/test'
import type { BenchOptions, Figure } from '#bench/report/report.ts'
import { usualCleaning } from '#core/audio/render/render.ts'
import { findHum } from '#core/audio/repair/hum.ts'
import { align } from '#core/captions/align/align.ts'
import { extractFeatures } from '#core/captions/align/extract-features.ts'
import { heardSounds, surelyNoWords } from '#core/captions/spoken/heard-sounds.ts'
import { openSynthesiser } from '#server/speech/synthesiser.ts'
import { differingFromChromium } from '#tests/e2e/webvtt-chromium.ts'
import { WEBVTT_INPUTS } from '#tests/e2e/webvtt-inputs.ts'
import { BROWSER } from '#tests/support/browser.ts'
import { hasPrompts, PROMPT_LANGUAGES, PROMPT_PACKAGES } from '../speech/prompts.ts'
import { type Case, KINDS, type Kind, makeCase } from './corpus.ts'
import { likeness } from './likeness.ts'
import { hasProse, lineFaults } from './lines.ts'
import { type Errors, judge, noErrors, quantileMs } from './measure.ts'
import { alignMemory } from './memory.ts'
import { hasFlite, wordErrors } from './words.ts'

const USUAL_ROUNDS = 3
const NOISES = ['white', 'pink', 'fan'] as const

interface Clock {
  sound: number
  work: number
}

async function run(made: Case, errors: Errors, clock: Clock) {
  const synthesiser = await openSynthesiser(made.language)
  const began = performance.now()
  // as in the product: the tidied sound is listened to
  const heard = extractFeatures(made.samples, usualCleaning(), findHum(made.samples))
  const found = align(heard, made.script, synthesiser!, surelyNoWords(heardSounds(heard)))
  clock.work += (performance.now() - began) / 1000
  clock.sound += made.samples.length / 48_000
  judge(errors, made, found)
}

const percent = (part: number, whole: number) => (whole === 0 ? 0 : (100 * part) / whole)
const below = (name: string, value: number, most: number, unit: string): Figure => ({
  name,
  value,
  goal: `≤ ${most}`,
  unit,
  ok: value <= most,
})
const above = (name: string, value: number, least: number, unit: string): Figure => ({
  name,
  value,
  goal: `≥ ${least}`,
  unit,
  ok: value >= least,
})

/** How many tricky caption files Chromium reads as we do. */
async function agreement(): Promise<Figure> {
  const browser = await chromium.launch(BROWSER)
  try {
    const differing = await differingFromChromium(await browser.newPage())
    const count = WEBVTT_INPUTS.length
    return above('WebVTT: agreement with Chromium', percent(count - differing.length, count), 100, `% of ${count}`)
  } finally {
    await browser.close()
  }
}

function lineFigures(): Figure[] {
  const { ours, greedy } = lineFaults()
  const bad = { ours: ours.torn + ours.reasonless, greedy: greedy.torn + greedy.reasonless }
  return [
    below('line breaking: hard rules broken, words torn apart', ours.hard + ours.torn, 0, `of ${ours.breaks} breaks`),
    below('line breaking: bad breaks against greedy', bad.ours / bad.greedy, 1, `(${bad.ours} : ${bad.greedy})`),
    {
      name: 'line breaking: words torn apart by greedy',
      value: greedy.torn,
      goal: '–',
      unit: `of ${greedy.breaks} breaks`,
      ok: null,
    },
  ]
}

/** Of the same words said twice and of other words: what tells a repeat from something else lies between. */
function likenessFigures(): Figure[] {
  const { same, other } = likeness()
  const told = (name: string, value: number, unit: string): Figure => ({ name, value, goal: '–', unit, ok: null })
  return [
    told('same words said twice: most unlike', same.at(-1)!, `of ${same.length}`),
    told('other words: least unlike', other[0]!, `of ${other.length}`),
    told('other words: the next', other[1]!, ''),
  ]
}

async function wordFigures(): Promise<Figure[]> {
  const errors = await wordErrors()
  return [
    below('word starts: median', quantileMs(errors, 0.5), 20, `ms of ${errors.length}`),
    below('word starts: 95th', quantileMs(errors, 0.95), 80, 'ms'),
  ]
}

export async function bench({ seed, rounds }: BenchOptions): Promise<Figure[]> {
  if (!hasPrompts()) throw new Error(`This bench speaks with Debian's voices: apt-get install ${PROMPT_PACKAGES.join(' ')}`)
  if (!hasFlite() || !hasProse()) throw new Error('This bench speaks with flite and reads prose: apt-get install flite bible-kjv')
  const clock: Clock = { sound: 0, work: 0 }
  const byKind = new Map<Kind, Errors>()
  const inNoise = { 15: noErrors(), 10: noErrors() }
  for (const kind of KINDS) {
    const errors = noErrors()
    byKind.set(kind, errors)
    for (let round = 0; round < (rounds ?? USUAL_ROUNDS); round++)
      for (const language of PROMPT_LANGUAGES) await run(makeCase(language, kind, 1000 * seed + 31 * round, null), errors, clock)
  }
  for (const snr of [15, 10] as const) {
    for (const [n, noise] of NOISES.entries())
      for (const language of PROMPT_LANGUAGES)
        await run(
          makeCase(language, n === 0 ? 'plain' : n === 1 ? 'skip' : 'repeat', 1000 * seed + 500 + n, { kind: noise, snr }),
          inNoise[snr],
          clock,
        )
  }
  const of = (kind: Kind) => byKind.get(kind)!
  const all = [...byKind.values()]
  const plain = of('plain')
  const slips = [of('skip'), of('repeat'), of('ad-lib'), of('misread')]
  const sum = (list: Errors[], get: (e: Errors) => number) => list.reduce((total, e) => total + get(e), 0)
  const merged = (list: Errors[], get: (e: Errors) => number[]) => list.flatMap(get)
  return [
    below('clean: start, median', quantileMs(plain.starts, 0.5), 20, 'ms'),
    below('clean: start, 95th', quantileMs(plain.starts, 0.95), 60, 'ms'),
    below('clean: end, 95th', quantileMs(plain.ends, 0.95), 100, 'ms'),
    below('clean: off by more than 250 ms', percent(plain.gross, plain.sayings), 0.5, `% of ${plain.sayings}`),
    below(
      'slips: start, 95th',
      quantileMs(
        merged(slips, (e) => e.starts),
        0.95,
      ),
      60,
      'ms',
    ),
    below(
      'slips: end, 95th',
      quantileMs(
        merged(slips, (e) => e.ends),
        0.95,
      ),
      100,
      'ms',
    ),
    above('skips found', percent(of('skip').skips.found, of('skip').skips.true), 98, `% of ${of('skip').skips.true}`),
    below(
      'false skips',
      percent(
        sum(all, (e) => e.skips.false),
        sum(all, (e) => e.skips.sentences),
      ),
      0.5,
      `% of ${sum(all, (e) => e.skips.sentences)}`,
    ),
    above(
      'repeats found',
      percent(of('repeat').repeats.found, of('repeat').repeats.true),
      95,
      `% of ${of('repeat').repeats.true}`,
    ),
    below(
      'ad-libs captioned as script',
      percent(of('ad-lib').adLibs.captioned, of('ad-lib').adLibs.true),
      5,
      `% of ${of('ad-lib').adLibs.true}`,
    ),
    below('breath: start, 95th', quantileMs(of('breath').starts, 0.95), 100, 'ms'),
    below('echo: start, 95th', quantileMs(of('echo').starts, 0.95), 100, 'ms'),
    below('15 dB: start, 95th', quantileMs(inNoise[15].starts, 0.95), 60, 'ms'),
    below('10 dB: start, 95th', quantileMs(inNoise[10].starts, 0.95), 120, 'ms'),
    below('15 and 10 dB: end, 95th', quantileMs([...inNoise[15].ends, ...inNoise[10].ends], 0.95), 150, 'ms'),
    above('15 dB: skips found', percent(inNoise[15].skips.found, inNoise[15].skips.true), 98, `% of ${inNoise[15].skips.true}`),
    above(
      '15 dB: repeats found',
      percent(inNoise[15].repeats.found, inNoise[15].repeats.true),
      95,
      `% of ${inNoise[15].repeats.true}`,
    ),
    below(
      'gross errors not flagged',
      sum([...all, inNoise[15], inNoise[10]], (e) => e.grossUnflagged),
      0,
      `of ${sum([...all, inNoise[15], inNoise[10]], (e) => e.sayings)}`,
    ),
    {
      name: 'sentences marked for a look, clean',
      value: percent(plain.needsReview, plain.sayings),
      goal: '–',
      unit: '%',
      ok: null,
    },
    ...(await wordFigures()),
    ...likenessFigures(),
    ...lineFigures(),
    await agreement(),
    above('speed, cleaning and all', clock.sound / clock.work, 10, '× realtime'),
    below('memory for five minutes, cleaning and all', alignMemory(seed), 150, 'MB'),
  ]
}
