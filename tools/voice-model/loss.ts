/** How far the network's answers are from what they should be, and which way is downhill. */
import { BANDS, OUTPUTS } from '#core/audio/denoise/model-features.ts'

/** The course of each band counts most, as it makes words intelligible; that somebody speaks is a matter of yes and no. */
const [GAINS_COUNT, SPEAKING_COUNTS, COURSE_COUNTS] = [4, 0.5, 3]
/** Steps over which the course of bands is compared: 384 ms, as ESTOI does. */
const COURSE = 36
const COURSE_HOP = 23
/**
 * Bands that are heard as one when their course is compared: about a third of an octave each, from 94 Hz to 4.6 kHz, as ESTOI has them.
 */
const HEARD_AS_ONE: readonly (readonly number[])[] = [
  [0],
  [1],
  [2],
  [3],
  [4],
  [5],
  [6],
  [7],
  [8],
  [9, 10],
  [11, 12],
  [13, 14],
  [15, 16],
  [17, 18],
  [19],
]
const GROUPS = HEARD_AS_ONE.length
/** What is known of a sequence. All row by row, a step a row. */
export interface Truth {
  /** `BANDS` roots of gains, then whether somebody is heard, then whether somebody speaks. */
  targets: Float32Array
  /** `BANDS` amplitudes of the voice. */
  voice: Float32Array
  /** `BANDS` amplitudes of everything. */
  all: Float32Array
}

export interface Losses {
  gains: number
  speaking: number
  course: number
}

/** What is made as small as it can be. */
export const lossOf = ({ gains, speaking, course }: Losses) =>
  GAINS_COUNT * gains + SPEAKING_COUNTS * speaking + COURSE_COUNTS * course

/** Some values, `stride` apart, brought to mean 0 and length 1. */
interface Brought {
  values: Float64Array
  lengths: Float64Array
}

/** @param along whether each band is brought along the steps, or each step along the bands */
function bring(values: Float64Array, along: 'steps' | 'bands'): Brought {
  const [lines, count, lineStride, stride] = along === 'steps' ? [GROUPS, COURSE, 1, GROUPS] : [COURSE, GROUPS, GROUPS, 1]
  const out = new Float64Array(values.length)
  const lengths = new Float64Array(lines)
  for (let n = 0; n < lines; n++) {
    let [mean, energy] = [0, 1e-9]
    for (let i = 0; i < count; i++) mean += values[n * lineStride + i * stride]! / count
    for (let i = 0; i < count; i++) energy += (values[n * lineStride + i * stride]! - mean) ** 2
    lengths[n] = Math.sqrt(energy)
    for (let i = 0; i < count; i++) out[n * lineStride + i * stride] = (values[n * lineStride + i * stride]! - mean) / lengths[n]!
  }
  return { values: out, lengths }
}

/** Gradient of what was brought, from the gradient of what came out. */
function bringBack(gradient: Float64Array, { values, lengths }: Brought, along: 'steps' | 'bands'): Float64Array {
  const [count, lineStride, stride] = along === 'steps' ? [COURSE, 1, GROUPS] : [GROUPS, GROUPS, 1]
  const out = new Float64Array(values.length)
  for (let n = 0; n < lengths.length; n++) {
    let [straight, mean] = [0, 0]
    for (let i = 0; i < count; i++) {
      const at = n * lineStride + i * stride
      straight += gradient[at]! * values[at]!
      mean += gradient[at]! / count
    }
    // the values have mean 0, so the part along them has none either
    for (let i = 0; i < count; i++) {
      const at = n * lineStride + i * stride
      out[at] = (gradient[at]! - mean - values[at]! * straight) / lengths[n]!
    }
  }
  return out
}

/** @param course its steps @param amplitude of a band of a step, `step * BANDS + band` @returns `COURSE × GROUPS` */
const grouped = (course: readonly number[], amplitude: (at: number) => number) =>
  Float64Array.from({ length: COURSE * GROUPS }, (_, i) => {
    let power = 0
    for (const b of HEARD_AS_ONE[i % GROUPS]!) power += amplitude(course[Math.floor(i / GROUPS)]! * BANDS + b) ** 2
    return Math.sqrt(power)
  })

const logistic = (v: number) => 1 / (1 + Math.exp(-v))

/**
 * @param outputs before the logistic function, `columns` a row
 * @param gradient is set, also where nothing counts
 * @param from first step that counts @param to one past the last
 * @param share of the sequence in the whole that is learned from at once
 * @see Jensen & Taal 2016, IEEE/ACM Trans. ASLP 24(11), for the course of bands; here in the model's own bands
 */
export function judge(
  outputs: Float32Array,
  columns: number,
  { targets, voice, all }: Truth,
  from: number,
  to: number,
  share: number,
  gradient: Float32Array,
): Losses {
  gradient.fill(0)
  const steps = to - from
  const losses = { gains: 0, speaking: 0, course: 0 }
  const roots = new Float64Array(steps * BANDS)
  for (let s = 0; s < steps; s++) {
    const row = (from + s) * columns
    for (let b = 0; b < BANDS; b++) {
      const y = logistic(outputs[row + b]!)
      roots[s * BANDS + b] = y
      const error = y - targets[(from + s) * OUTPUTS + b]!
      losses.gains += error ** 2 / steps / BANDS
      gradient[row + b] = (share * GAINS_COUNT * 2 * error * y * (1 - y)) / steps / BANDS
    }
    for (let o = BANDS; o < OUTPUTS; o++) {
      const z = outputs[row + o]!
      const truth = targets[(from + s) * OUTPUTS + o]!
      losses.speaking += (Math.max(z, 0) - z * truth + Math.log1p(Math.exp(-Math.abs(z)))) / steps / 2
      gradient[row + o] = (share * SPEAKING_COUNTS * (logistic(z) - truth)) / steps / 2
    }
  }
  // as ESTOI does it: steps in which nobody is heard are left out, and what lies around them is joined
  const spoken = Array.from({ length: steps }, (_, s) => s).filter((s) => targets[(from + s) * OUTPUTS + BANDS]! > 0.5)
  const courses: number[][] = []
  for (let at = 0; at + COURSE <= spoken.length; at += COURSE_HOP) courses.push(spoken.slice(at, at + COURSE))
  for (const course of courses) {
    const truth = bring(
      bring(
        grouped(course, (at) => voice[from * BANDS + at]!),
        'steps',
      ).values,
      'bands',
    )
    const amplitude = (at: number) => roots[at]! ** 2 * all[from * BANDS + at]!
    const left = grouped(course, amplitude)
    const along = bring(left, 'steps')
    const across = bring(along.values, 'bands')
    let alike = 0
    for (let i = 0; i < left.length; i++) alike += (truth.values[i]! * across.values[i]!) / COURSE
    losses.course += (1 - alike) / courses.length
    const weight = (share * COURSE_COUNTS) / courses.length
    const down = bringBack(
      bringBack(
        truth.values.map((v) => (-weight * v) / COURSE),
        across,
        'bands',
      ),
      along,
      'steps',
    )
    for (const [n, s] of course.entries())
      for (const [g, bands] of HEARD_AS_ONE.entries())
        for (const b of bands) {
          const i = s * BANDS + b
          const at = (from + s) * columns + b
          const part = amplitude(i) / (left[n * GROUPS + g]! + 1e-12)
          gradient[at] = gradient[at]! + down[n * GROUPS + g]! * part * 2 * amplitude(i) * (1 - roots[i]!)
        }
  }
  return losses
}
