/** Made-up sound for tests: voices, rooms and clicks from a seed. */
import { SAMPLE_RATE } from '#core/timing/clocks.ts'

/** Small seeded generator (mulberry32), so that every run hears the same noise. */
export function random(seed: number): () => number {
  let state = seed
  return () => {
    state = (state + 0x6d2b79f5) | 0
    let t = Math.imul(state ^ (state >>> 15), 1 | state)
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296
  }
}

export const seconds = (s: number) => Math.round(s * SAMPLE_RATE)

export function sine(hz: number, amplitude: number, length: number): Float32Array {
  const out = new Float32Array(length)
  for (let i = 0; i < length; i++) out[i] = amplitude * Math.sin((2 * Math.PI * hz * i) / SAMPLE_RATE)
  return out
}

/** White noise with a given root mean square. */
export function noise(rms: number, length: number, seed = 1): Float32Array {
  const next = random(seed)
  const out = new Float32Array(length)
  for (let i = 0; i < length; i++) out[i] = rms * Math.sqrt(3) * (2 * next() - 1)
  return out
}

/**
 * Something like a voice: a 120 Hz buzz through three formants that move every syllable, with a dip between syllables.
 */
export function voice(amplitude: number, length: number, seed = 1): Float32Array {
  const next = random(seed)
  const out = new Float32Array(length)
  const syllable = seconds(0.18)
  // the buzz repeats itself after so many samples: one turn of it a syllable is worked out
  const turn = SAMPLE_RATE / 120
  const buzz = new Float64Array(turn)
  for (let i = 0; i < length; i++) {
    if (i % syllable === 0) {
      const formants = [350 + 400 * next(), 1000 + 1200 * next(), 2300 + 600 * next()]
      buzz.fill(0)
      for (let h = 1; h <= 28; h++) {
        const gain = formants.reduce((g, f) => g + Math.exp(-(((120 * h - f) / 150) ** 2)), 0.03)
        for (let k = 0; k < turn; k++) buzz[k]! += gain * Math.sin((2 * Math.PI * h * k) / turn + h * h)
      }
    }
    out[i] = amplitude * 0.2 * buzz[i % turn]! * (0.35 + 0.65 * Math.sin((Math.PI * (i % syllable)) / syllable))
  }
  return out
}

/** A vowel that is held, as in an "um": harmonics of one pitch through two formants, Hz. */
export function heldVowel(length: number, [first, second]: readonly number[] = [550, 1400], hz = 130): Float32Array {
  const out = new Float32Array(length)
  for (let h = 1; h <= 24; h++) {
    const gain = Math.exp(-(((h * hz - first!) / 180) ** 2)) + 0.5 * Math.exp(-(((h * hz - second!) / 250) ** 2)) + 0.01
    for (let i = 0; i < length; i++) out[i] = out[i]! + 0.08 * gain * Math.sin((2 * Math.PI * h * hz * i) / SAMPLE_RATE + h)
  }
  const edge = seconds(0.03)
  return out.map((v, i) => v * Math.min(1, i / edge, (length - i) / edge))
}

/** Lays a sound over another from a sample on, in place. */
export function lay(onto: Float32Array, sound: Float32Array, at: number): Float32Array {
  for (let i = 0; i < sound.length && at + i < onto.length; i++) onto[at + i] = onto[at + i]! + sound[i]!
  return onto
}

/** A take as teachers make them: a room, two phrases with a pause, and the click of the stop key. */
export function madeTake({ room = 0.002, level = 0.3, click = 0.5, seed = 7 } = {}) {
  const take = noise(room, seconds(6), seed)
  lay(take, voice(level, seconds(1.5), seed), seconds(1))
  lay(take, voice(level, seconds(1.2), seed + 1), seconds(3.3))
  lay(take, noise(click, seconds(0.008), seed + 2), seconds(5.7))
  return {
    samples: take,
    phrases: [
      { start: 1, end: 2.5 },
      { start: 3.3, end: 4.5 },
    ],
  }
}

/** @returns where two sounds differ first; −1 where they are the same, sample for sample */
export function firstDifference(a: ArrayLike<number>, b: ArrayLike<number>): number {
  for (let i = 0; i < Math.max(a.length, b.length); i++) if (!Object.is(a[i], b[i])) return i
  return -1
}
