/** Takes, tidied: analysis, the suggested recipe, and the one rendering that worker and server share. */
import type { ClipFigures, TakeAnalysis, TidyUp } from '#core/lecture.ts'
import { SAMPLE_RATE, toSamples } from '#core/timing/clocks.ts'
import { keptStretches } from '#core/timing/time-map.ts'
import { findSpeech, roomLevel } from './activity.ts'
import { denoise } from './denoise.ts'
import { applyBiquad, highPass } from './filters.ts'
import { limit } from './limiter.ts'
import { heardLoudness, truePeak } from './loudness.ts'
import { fromDb } from './pcm.ts'

/** Part of every clip's name: raise it when the same recipe would give other samples. */
export const ENGINE_VERSION = 1

const EDGE_FADE = toSamples(0.008)
const JOIN_FADE = toSamples(0.012)
/** Room left before the first and after the last word, inside the clip; lead and tail come on top. */
const ROOM_BEFORE = toSamples(0.04)
const ROOM_AFTER = toSamples(0.08)
const MOST_GAIN_DB = 40

const finite = (value: number) => (Number.isFinite(value) ? value : null)

/** Samples that stand at full scale in runs of three or more: the mark of a microphone set too high. */
function countClipped(samples: Float32Array): number {
  let clipped = 0
  let run = 0
  for (let i = 0; i <= samples.length; i++) {
    if (i < samples.length && Math.abs(samples[i]!) >= 0.9995) run++
    else {
      if (run >= 3) clipped += run
      run = 0
    }
  }
  return clipped
}

/**
 * What there is to know of a take before anything is changed.
 *
 * @param samples the whole take, mono, 48 kHz
 */
export function analyse(samples: Float32Array): TakeAnalysis {
  const speech = findSpeech(samples)
  return {
    speech,
    roomDb: roomLevel(samples, speech),
    loudnessLufs: finite(heardLoudness(samples)),
    truePeakDbtp: finite(truePeak(samples)),
    clippedSamples: countClipped(samples),
  }
}

/**
 * The recipe a take gets without anybody asking: curtains around the speech, moderate cleaning, one loudness.
 *
 * @param samples length of the take
 * @returns a tidyUp that keeps the whole take when no voice was found in it
 */
export function suggestTidyUp(analysis: Pick<TakeAnalysis, 'speech'>, samples: number): TidyUp {
  const first = analysis.speech[0]
  const last = analysis.speech.at(-1)
  return {
    kept: {
      start: first ? Math.max(0, first.start - ROOM_BEFORE) : 0,
      end: last ? Math.min(samples, last.end + ROOM_AFTER) : Math.max(1, samples),
    },
    cuts: [],
    highPassHz: 70,
    cleaning: 0.6,
    roomTone: null,
    level: { targetLufs: -16, ceilingDbtp: -1 },
  }
}

/** Joins the kept stretches; each join is an equal-power cross-fade that borrows its overlap from what was cut out. */
function joinKept(samples: Float32Array, tidyUp: TidyUp): Float32Array<ArrayBuffer> {
  const pieces = keptStretches(tidyUp)
  const out = new Float32Array(pieces.reduce((sum, p) => sum + p.end - p.start, 0))
  const half = JOIN_FADE / 2
  let at = 0
  pieces.forEach((piece, i) => {
    out.set(samples.subarray(piece.start, Math.min(piece.end, samples.length)), at)
    const before = pieces[i - 1]
    if (before) {
      for (let n = -half; n < half; n++) {
        const to = at + n
        if (to < 0 || to >= out.length) continue
        const turn = ((n + half + 0.5) / JOIN_FADE) * (Math.PI / 2)
        out[to] = (samples[before.end + n] ?? 0) * Math.cos(turn) + (samples[piece.start + n] ?? 0) * Math.sin(turn)
      }
    }
    at += piece.end - piece.start
  })
  return out
}

function fadeEdges(clip: Float32Array) {
  const length = Math.min(EDGE_FADE, Math.floor(clip.length / 2))
  for (let i = 0; i < length; i++) {
    const gain = (i + 0.5) / length
    clip[i] = clip[i]! * gain
    clip[clip.length - 1 - i] = clip[clip.length - 1 - i]! * gain
  }
}

/** Gain to the target and a limiter at the ceiling; twice more where limiting took loudness away. */
function bringToLevel(clip: Float32Array, level: NonNullable<TidyUp['level']>): { clip: Float32Array; gainDb: number } {
  const measured = heardLoudness(clip)
  if (!Number.isFinite(measured)) return { clip, gainDb: 0 }
  let gainDb = Math.min(MOST_GAIN_DB, level.targetLufs - measured)
  for (let round = 0; ; round++) {
    const gain = fromDb(gainDb)
    const loud = limit(
      clip.map((value) => value * gain),
      level.ceilingDbtp,
    )
    const missing = level.targetLufs - heardLoudness(loud)
    if (round === 2 || Math.abs(missing) < 0.1 || gainDb >= MOST_GAIN_DB) return { clip: loud, gainDb }
    gainDb += missing
  }
}

/**
 * Renders a take through its tidyUp. Order: rumble, cleaning (over the whole take, so that a moved curtain changes
 * nothing in the middle), cuts, fades at the edges, level.
 *
 * @param samples the whole take, mono, 48 kHz
 * @returns the clip, as long as `clipSamples(tidyUp)`, and its figures
 */
export function render(samples: Float32Array, tidyUp: TidyUp): { clip: Float32Array; figures: ClipFigures } {
  const filtered = tidyUp.highPassHz === null ? samples : applyBiquad(samples, highPass(tidyUp.highPassHz, SAMPLE_RATE))
  const joined = joinKept(denoise(filtered, tidyUp.cleaning, tidyUp.roomTone), tidyUp)
  fadeEdges(joined)
  const { clip, gainDb } = tidyUp.level ? bringToLevel(joined, tidyUp.level) : { clip: joined, gainDb: 0 }
  return {
    clip,
    figures: {
      loudnessLufs: finite(heardLoudness(clip)),
      truePeakDbtp: finite(truePeak(clip)),
      roomDb: roomLevel(clip, findSpeech(clip)),
      gainDb,
    },
  }
}
