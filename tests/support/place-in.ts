/** Where a stretch of a recording stands in the file it was recorded from. */
import { applyBiquad, lowPass } from '#core/audio/signal/filters.ts'
import { SAMPLE_RATE } from '#core/timing/clocks.ts'
import { noise } from '#tests/made/sound.ts'

/** The file between its samples (Catmull-Rom): the microphone's way over 44.1 kHz ends where no sample was. */
function between(file: Float32Array, at: number): number {
  const i = Math.floor(at)
  const f = at - i
  const [a, b, c, d] = [file[i - 1] ?? 0, file[i] ?? 0, file[i + 1] ?? 0, file[i + 2] ?? 0]
  return b + 0.5 * f * (c - a + f * (2 * a - 5 * b + 4 * c - d + f * (3 * (b - c) + d - a)))
}

function correlation(file: Float32Array, part: Float32Array, at: number, step: number): number {
  let [sum, a, b] = [0, 0, 0]
  for (let i = 0; i < part.length; i += step) {
    const x = part[i]!
    const y = between(file, at + i)
    sum += x * y
    a += x * x
    b += y * y
  }
  return sum / Math.sqrt(a * b + 1e-20)
}

/** Where the one lies in the other, by every 97th sample. */
function roughly(file: Float32Array, part: Float32Array, from = 0, to = file.length - part.length): number {
  let best = { at: 0, sum: Number.NEGATIVE_INFINITY }
  for (let at = Math.max(0, from); at <= Math.min(to, file.length - part.length); at += 2) {
    let [sum, power] = [0, 1e-12]
    for (let i = 0; i < part.length; i += 97) {
      sum += part[i]! * file[at + i]!
      power += file[at + i]! ** 2
    }
    // what is loud is not more alike for that
    const alike = sum / Math.sqrt(power)
    if (alike > best.sum) best = { at, sum: alike }
  }
  return best.at
}

/** Where a stretch of the recording stands in the file, to an eighth of a sample, by the largest correlation. */
export function placeIn(file: Float32Array, part: Float32Array, expected: number | null): { at: number; correlation: number } {
  const search = (from: number, to: number, by: number, step: number) => {
    let best = { at: from, correlation: -1 }
    for (let at = from; at < to; at += by) {
      const found = correlation(file, part, at, step)
      if (found > best.correlation) best = { at, correlation: found }
    }
    return best
  }
  const near = expected ?? roughly(file, part)
  const whole = search(near - 24, near + 24, 1, 7).at
  return search(whole - 1.5, whole + 1.5, 0.125, 1)
}

/** So much further away a stretch is sought when it is not where the one before it lets it be. */
const JUMP = 2 * 48_000
const ALIKE = 0.999

/**
 * Where each half second of a recording stands in the file.
 *
 * @returns how much later than in the recording, samples, and how alike the two are
 */
export function placesIn(file: Float32Array, recorded: Float32Array): { offset: number; correlation: number }[] {
  const piece = 24_000
  const found: { offset: number; correlation: number }[] = []
  let offset: number | null = null
  for (let at = piece; at + piece < recorded.length; at += piece) {
    const part = recorded.subarray(at, at + piece)
    let place = placeIn(file, part, offset === null ? null : Math.round(at + offset))
    if (offset !== null && place.correlation < ALIKE) {
      const again = placeIn(file, part, roughly(file, part, at + offset - JUMP, at + offset + JUMP))
      if (again.correlation > place.correlation) place = again
    }
    found.push({ offset: place.at - at, correlation: place.correlation })
    if (place.correlation >= ALIKE) offset = place.at - at
  }
  return found
}

/** Noise under 6 kHz that comes and goes: no second of it is like another. */
export function unlikeItself(seconds: number, seed: number): Float32Array {
  const swelling = noise(0.15, seconds * SAMPLE_RATE, seed).map((v, i) => v * (0.6 + 0.4 * Math.sin(i / 5000)))
  return lowPass(6000, SAMPLE_RATE).reduce((sound: Float32Array, stage) => applyBiquad(sound, stage), swelling)
}
