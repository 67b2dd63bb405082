/**
 * The bench of the sound core: real voices in made-up rooms, ours beside the media tool's FFT denoiser (shown the room) and
 * RNNoise alone, on the same clips in the same run. Needs the packages named in corpus.ts.
 */

import type { BenchOptions, Figure } from '#bench/report/report.ts'
import type { Cleaned } from '#core/audio/denoise/denoise.ts'
import { heardLoudness } from '#core/audio/loudness/loudness.ts'
import { cleanTake } from '#core/audio/render/render.ts'
import { findHum } from '#core/audio/repair/hum.ts'
import { ebur128 } from '#tests/reference/ebur128.ts'
import { estoi } from '../measure/intelligibility.ts'
import { siSdr } from '../measure/signal.ts'
import { hasVoices, LANGUAGES, NOISES, PACKAGES, type Recording, recording, SNRS } from './corpus.ts'
import { edgesOf, quantile } from './edges.ts'
import { type Row, rowOf, summary, worst } from './measure.ts'
import { fftDenoiser, rnnoise } from './rivals.ts'
import { lectureTake, speedOf } from './speed.ts'

const USUAL = { cleaning: 0.6, highPassHz: 70, hum: true, clicks: true, roomTone: null }
const SECONDS = 7

/** Every language at every ratio in every noise, and clean ones; `--rounds 1` takes every fourth. */
function* plan(seed: number, thin: boolean): Generator<Recording> {
  let n = 0
  for (const language of LANGUAGES)
    for (const [s, snr] of SNRS.entries())
      for (const [k, noise] of NOISES.entries()) {
        n++
        // the thinned plan still has each language at each ratio
        if (!thin || (k + s) % 4 === LANGUAGES.indexOf(language) % 4)
          yield recording(language, noise, snr, seed * 1000 + n, SECONDS)
      }
  for (const language of [...LANGUAGES, 'words'] as const) yield recording(language, 'none', 99, seed * 1000 + ++n, SECONDS)
}

const processCpu = () => {
  const { user, system } = process.cpuUsage()
  return (user + system) / 1e6
}

export async function bench({ seed, rounds, json }: BenchOptions): Promise<Figure[]> {
  if (!hasVoices()) throw new Error(`Voices are missing. Install them: apt-get install ${PACKAGES.join(' ')}`)
  const rnnoiseAlone = await rnnoise()
  const methods: Record<string, (r: Recording) => Float32Array> = {
    ours: (r) => {
      cleaned = cleanTake(r.noisy, USUAL, findHum(r.noisy))
      return cleaned.samples
    },
    'FFT denoiser': (r) => fftDenoiser(r.noisy, { start: 0, end: r.phrases[0]!.start - 4800 }),
    RNNoise: (r) => rnnoiseAlone(r.noisy),
  }
  let cleaned: Cleaned | null = null
  const rows: Record<string, Row[]> = Object.fromEntries(Object.keys(methods).map((name) => [name, []]))
  const edges = { startsMs: [] as number[], endsMs: [] as number[], falseSpeech: 0, missed: 0 }
  const spent: Record<string, number> = { ours: 0, 'FFT denoiser': 0, RNNoise: 0 }
  let heard = 0
  let meter = 0
  for (const r of plan(seed, rounds === 1)) {
    const before = { estoi: estoi(r.clean, r.noisy), sdr: siSdr(r.clean, r.noisy) }
    heard += r.noisy.length / 48_000
    for (const [name, method] of Object.entries(methods)) {
      const began = name === 'FFT denoiser' ? performance.now() / 1000 : processCpu()
      const out = method(r)
      spent[name] = spent[name]! + (name === 'FFT denoiser' ? performance.now() / 1000 : processCpu()) - began
      rows[name]!.push(rowOf(r, out, before))
    }
    if (r.snr >= 10) {
      const { startsMs, endsMs, falseSpeech, missed } = edgesOf(r, cleaned!.speechProbability)
      edges.startsMs.push(...startsMs)
      edges.endsMs.push(...endsMs)
      edges.falseSpeech += falseSpeech
      edges.missed += missed
      if (!json && falseSpeech + missed > 0) console.log(`\n${r.name}: ${falseSpeech} false, ${missed} missed`)
    }
    const { integrated } = await ebur128(r.noisy, r.noisy)
    meter = Math.max(meter, Math.abs(integrated - heardLoudness(r.noisy)))
    if (!json) process.stderr.write('.')
  }
  if (!json) {
    process.stderr.write('\n')
    console.log(
      `Lowest ESTOI gain: ${worst(
        rows.ours!.filter((r) => r.recording.noise !== 'none'),
        (r) => r.estoiGain,
      )}`,
    )
    console.log(
      `Lowest ESTOI on clean: ${worst(
        rows.ours!.filter((r) => r.recording.noise === 'none'),
        (r) => r.estoiGain,
      )}\n`,
    )
  }
  const goals: [string, string, string, (v: number) => boolean][] = [
    ['ESTOI against noisy, worst', '≥ −0.002', '', (v) => v >= -0.002],
    ['ESTOI gain, stationary 10 dB, mean', '≥ 0.13', '', (v) => v >= 0.13],
    ['ESTOI change on clean, worst', '≥ −0.001', '', (v) => v >= -0.001],
    ['SI-SDR gain, stationary 10 dB, mean', '≥ 7.5', 'dB', (v) => v >= 7.5],
    ['SI-SDR gain, stationary 20 dB, mean', '≥ 4.5', 'dB', (v) => v >= 4.5],
    ['SI-SDR gain, rumble, mean', '≥ 4.5', 'dB', (v) => v >= 4.5],
    ['SI-SDR of clean input, worst', '≥ 40', 'dB', (v) => v >= 40],
    ['floor in pauses at 10 dB, worst', '≤ −65', 'dBFS', (v) => v <= -65],
    ['log-kurtosis ratio above −75 dBFS, worst', '≤ 0.2', '', (v) => v <= 0.2],
    ['loudest 50 ms in pauses with clicks, worst', '≤ −60', 'dBFS', (v) => v <= -60],
    ['speech level change, mean', '±0.5', 'dB', (v) => Math.abs(v) <= 0.5],
  ]
  const ours = summary(rows.ours!)
  const figures: Figure[] = goals.map(([name, goal, unit, ok]) => ({ name, value: ours[name]!, goal, unit, ok: ok(ours[name]!) }))
  const lost = [...edges.startsMs.map((v) => v > 10), ...edges.endsMs.map((v) => v < -10)]
  const share = (100 * lost.filter(Boolean).length) / lost.length
  const add = (name: string, value: number, goal: string, unit: string, ok: boolean | null) =>
    figures.push({ name, value, goal, unit, ok })
  const [s50, s95, e50, e95] = [
    quantile(edges.startsMs, 0.5),
    quantile(edges.startsMs, 0.95),
    quantile(edges.endsMs, 0.5),
    quantile(edges.endsMs, 0.95),
  ]
  add('start of speech, median', s50, '≤ 30', 'ms', s50 <= 30)
  add('start of speech, 95th', s95, '≤ 80', 'ms', s95 <= 80)
  add('end of speech, median', e50, '≤ 50', 'ms', e50 <= 50)
  add('end of speech, 95th', e95, '≤ 100', 'ms', e95 <= 100)
  add('edges that lose more than 10 ms', share, '≤ 3', '%', share <= 3)
  add('false speech', edges.falseSpeech, '0', '', edges.falseSpeech === 0)
  add('phrases missed', edges.missed, '0', '', edges.missed === 0)
  const speed = speedOf(lectureTake(seed)).cpu
  add('whole tidy, times realtime, one core', speed, '≥ 30', '×', speed >= 30)
  add('cleaning alone, times realtime', heard / spent.ours!, '', '×', null)
  add('FFT denoiser, times realtime (wall)', heard / spent['FFT denoiser']!, '', '×', null)
  add('RNNoise, times realtime', heard / spent.RNNoise!, '', '×', null)
  add('loudness against ebur128-wasm, worst', meter, '≤ 0.1', 'LU', meter <= 0.1)
  for (const rival of ['FFT denoiser', 'RNNoise']) {
    const theirs = summary(rows[rival]!)
    for (const [name, , unit] of goals) add(`${rival}: ${name}`, theirs[name]!, '', unit, null)
  }
  return figures
}
