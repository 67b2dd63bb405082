/** What there is to know of a take before anything is changed, and the recipe that follows from it. */
import { type TakeAnalysis, TidyUp } from '#core/lecture.ts'
import { toSamples } from '#core/timing/clocks.ts'
import { findSpeech, roomLevel } from './activity.ts'
import { heardLoudness } from './loudness.ts'
import { falseStop } from './pauses.ts'
import { truePeak } from './true-peak.ts'

/** Room left before the first and after the last word, inside the clip; lead and tail come on top. */
const ROOM_BEFORE = toSamples(0.04)
const ROOM_AFTER = toSamples(0.08)

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

/** What is measured without knowing where somebody speaks. @param samples the whole take, mono, 48 kHz */
export const takeFigures = (samples: Float32Array) => ({
  loudnessLufs: finite(heardLoudness(samples)),
  truePeakDbtp: finite(truePeak(samples)),
  clippedSamples: countClipped(samples),
})

/**
 * @param samples the whole take, mono, 48 kHz
 * @param speaking probability of a voice in it, as `clean` tells it
 * @param humHz mains hum in it, as `findHum` tells it
 * @param figures of it, when they are known already
 */
export function analyse(
  samples: Float32Array,
  speaking: Float32Array,
  humHz: number | null,
  figures = takeFigures(samples),
): TakeAnalysis {
  const speech = findSpeech(speaking, samples.length)
  return { speech, roomDb: roomLevel(samples, speech), ...figures, humHz, falseStop: falseStop(speech) }
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
  return TidyUp.parse({
    kept: {
      start: first ? Math.max(0, first.start - ROOM_BEFORE) : 0,
      end: last ? Math.min(samples, last.end + ROOM_AFTER) : Math.max(1, samples),
    },
  })
}
