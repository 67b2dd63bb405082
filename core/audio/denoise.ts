/** Takes steady room noise away and leaves the voice: a statistical suppressor that may look both ways in time. */
import type { Stretch } from '#core/lecture.ts'
import { toSamples } from '#core/timing/clocks.ts'
import { expint1 } from './exponential-integral.ts'
import { fromDb } from './pcm.ts'
import { inverseStft, type Stft, stft } from './stft.ts'

const SIZE = 1024
const HOP = 256
const QUIET_SHARE = 0.12 // frames taken for the first picture of the noise
const ALPHA = 0.94 // decision-directed smoothing
// the paper's 0.8 and 0.9 are meant for frames 16 ms apart; ours are 5.3 ms apart
const KEEP_NOISE = 0.8 ** (1 / 3)
const KEEP_PRESENCE = 0.9 ** (1 / 3)
const XI_MIN = 10 ** (-18 / 10)
/** A long take is worked through in blocks, so that memory stays bounded. */
const BLOCK = toSamples(40)
const MARGIN = toSamples(1)

// log-MMSE gain: exp(E1(v)/2), looked up by log10(v)
const TABLE_FROM = -4
const TABLE_STEP = 0.02
const HALF_E1 = Float64Array.from({ length: Math.ceil((2 - TABLE_FROM) / TABLE_STEP) + 1 }, (_, i) =>
  Math.exp(expint1(10 ** (TABLE_FROM + i * TABLE_STEP)) / 2),
)

/**
 * Gain of the log-spectral amplitude estimator.
 *
 * @param xi a-priori signal-to-noise ratio (power)
 * @param gamma a-posteriori signal-to-noise ratio (power)
 * @returns amplitude gain, 0 and above
 * @see Ephraim & Malah 1985, IEEE Trans. ASSP 33(2), equation 20
 */
export function logMmseGain(xi: number, gamma: number): number {
  const wiener = xi / (1 + xi)
  const v = wiener * gamma
  const at = Math.round((Math.log10(Math.max(v, 1e-4)) - TABLE_FROM) / TABLE_STEP)
  return wiener * (HALF_E1[Math.min(HALF_E1.length - 1, at)] ?? 1)
}

/** Mean noise power per bin over the quietest frames, or over the frames inside a pointed-at room tone. */
function firstNoise(power: Float32Array, s: Stft, room: Stretch | null): Float64Array {
  const order = Array.from({ length: s.frames }, (_, f) => f)
  const inRoom = room ? order.filter((f) => f * s.hop >= room.start && f * s.hop + s.hop <= room.end) : []
  const energy = order.map((f) => {
    let sum = 0
    for (let k = 0; k < s.bins; k++) sum += power[f * s.bins + k]!
    return sum
  })
  // frames of digital silence (padding, a muted second) say nothing of the room
  const quiet = order.filter((f) => energy[f]! > 1e-10).sort((a, b) => energy[a]! - energy[b]!)
  const chosen = inRoom.length >= 4 ? inRoom : quiet.slice(0, Math.max(4, Math.floor(quiet.length * QUIET_SHARE)))
  const noise = new Float64Array(s.bins).fill(1e-12)
  for (const f of chosen) for (let k = 0; k < s.bins; k++) noise[k] = noise[k]! + power[f * s.bins + k]! / chosen.length
  return noise
}

/**
 * Follows the noise through the frames by the probability that speech is present.
 *
 * @see Gerkmann & Hendriks 2012, IEEE Trans. ASLP 20(4), algorithm 1: prior ratio 15 dB, smoothing 0.8
 */
function trackNoise(
  power: Float32Array,
  s: Stft,
  start: Float64Array,
  backward: boolean,
): { noise: Float32Array; last: Float64Array } {
  const xiOpt = 10 ** 1.5
  const noise = new Float32Array(power.length)
  const now = Float64Array.from(start)
  const meanPresence = new Float64Array(s.bins).fill(0.5)
  for (let step = 0; step < s.frames; step++) {
    const row = (backward ? s.frames - 1 - step : step) * s.bins
    for (let k = 0; k < s.bins; k++) {
      const y = power[row + k]!
      let presence = 1 / (1 + (1 + xiOpt) * Math.exp(Math.max(-80, -(y / now[k]!) * (xiOpt / (1 + xiOpt)))))
      meanPresence[k] = KEEP_PRESENCE * meanPresence[k]! + (1 - KEEP_PRESENCE) * presence
      if (meanPresence[k]! > 0.99) presence = Math.min(presence, 0.99)
      now[k] = Math.max(1e-12, KEEP_NOISE * now[k]! + (1 - KEEP_NOISE) * (presence * now[k]! + (1 - presence) * y))
      noise[row + k] = now[k]!
    }
  }
  return { noise, last: now }
}

/** Decision-directed a-priori ratio in one direction; Ephraim & Malah 1984, equation 51. */
function aPriori(power: Float32Array, noise: Float32Array, s: Stft, backward: boolean, into: Float32Array) {
  const before = new Float64Array(s.bins).fill(1)
  for (let step = 0; step < s.frames; step++) {
    const row = (backward ? s.frames - 1 - step : step) * s.bins
    for (let k = 0; k < s.bins; k++) {
      const gamma = Math.min(1e4, power[row + k]! / noise[row + k]!)
      const xi = Math.max(XI_MIN, ALPHA * before[k]! + (1 - ALPHA) * Math.max(0, gamma - 1))
      const gain = logMmseGain(xi, gamma)
      before[k] = gain * gain * gamma
      into[row + k] = Math.max(into[row + k]!, xi)
    }
  }
}

/** Probability that any speech is in a frame, held ±45 ms so that soft edges of words are not gated. */
function framePresence(xi: Float32Array, s: Stft): Float32Array {
  const low = Math.round(200 / (48000 / s.size))
  const high = Math.round(8000 / (48000 / s.size))
  const raw = new Float32Array(s.frames)
  for (let f = 0; f < s.frames; f++) {
    let sum = 0
    for (let k = low; k < high; k++) sum += Math.log10(xi[f * s.bins + k]!)
    const meanDb = (10 * sum) / (high - low)
    raw[f] = Math.min(1, Math.max(0, (meanDb + 13) / 8))
  }
  const hold = Math.round((0.045 * 48000) / s.hop)
  return raw.map((_, f) => {
    let most = 0
    for (let n = Math.max(0, f - hold); n <= Math.min(s.frames - 1, f + hold); n++) most = Math.max(most, raw[n]!)
    return most
  })
}

function cleanBlock(
  samples: Float32Array,
  strength: number,
  room: Stretch | null,
  given: Float64Array | null,
): Float32Array<ArrayBuffer> {
  const s = stft(samples, SIZE, HOP)
  const power = new Float32Array(s.re.length)
  for (let i = 0; i < power.length; i++) power[i] = s.re[i]! * s.re[i]! + s.im[i]! * s.im[i]!
  const first = given ?? firstNoise(power, s, room)
  const back = trackNoise(power, s, first, true)
  const forth = trackNoise(power, s, back.last, false)
  const again = trackNoise(power, s, forth.last, true)
  const noise = forth.noise.map((value, i) => Math.max(1e-12, Math.sqrt(value * again.noise[i]!) * 0.9))
  const xi = new Float32Array(power.length)
  aPriori(power, noise, s, false, xi)
  aPriori(power, noise, s, true, xi)
  const presence = framePresence(xi, s)
  const speechFloor = fromDb(-26 * strength)
  const pauseFloor = fromDb(-40 * strength)
  const gains = new Float64Array(s.bins)
  const SMOOTH = 6 // bins, ±280 Hz
  for (let f = 0; f < s.frames; f++) {
    const row = f * s.bins
    const speaking = presence[f]!
    const floor = pauseFloor ** (1 - speaking) * speechFloor ** speaking
    for (let k = 0; k < s.bins; k++) {
      const gamma = Math.min(1e4, power[row + k]! / noise[row + k]!)
      const x = xi[row + k]!
      const v = (gamma * x) / (1 + x)
      // OM-LSA (Cohen 2003, IEEE Trans. SAP 11(5), equations 8 and 16) with the frame's presence as prior
      const absent = Math.min(0.95, Math.max(0.05, 1 - speaking * Math.min(1, Math.max(0.05, (10 * Math.log10(x) + 15) / 12))))
      const present = 1 / (1 + (absent / (1 - absent)) * (1 + x) * Math.exp(-Math.min(80, v)))
      gains[k] = Math.max(floor, Math.min(1, logMmseGain(x, gamma)) ** present * floor ** (1 - present))
    }
    let sum = 0
    for (let k = 0; k < Math.min(SMOOTH, s.bins); k++) sum += gains[k]!
    let count = Math.min(SMOOTH, s.bins)
    for (let k = 0; k < s.bins; k++) {
      if (k + SMOOTH < s.bins) {
        sum += gains[k + SMOOTH]!
        count++
      }
      if (k > SMOOTH) {
        sum -= gains[k - SMOOTH - 1]!
        count--
      }
      // in pauses the gain is made smooth along frequency, so that no lone bin rings as a tone
      const gain = speaking * gains[k]! + (1 - speaking) * (sum / count)
      s.re[row + k] = s.re[row + k]! * gain
      s.im[row + k] = s.im[row + k]! * gain
    }
  }
  return inverseStft(s, samples.length)
}

/**
 * Reduces steady noise. The phase is kept as recorded.
 *
 * @param samples mono, 48 kHz
 * @param strength 0 to 1; 0 returns the input itself, 1 lets pauses fall by up to 40 dB
 * @param roomTone a stretch in which only the room is heard; null to find it
 * @returns a signal of the same length
 * @see Gerkmann & Hendriks 2012 (noise), Ephraim & Malah 1984/1985 (gain), Cohen 2003 (speech presence)
 */
export function denoise(samples: Float32Array, strength: number, roomTone: Stretch | null = null): Float32Array {
  if (strength <= 0 || samples.length === 0) return samples
  if (samples.length <= BLOCK + 2 * MARGIN) return cleanBlock(samples, strength, roomTone, null)
  const given = roomTone ? noiseOf(samples.subarray(roomTone.start, roomTone.end)) : null
  const out = new Float32Array(samples.length)
  for (let start = 0; start < samples.length; start += BLOCK) {
    const from = Math.max(0, start - MARGIN)
    const end = Math.min(samples.length, start + BLOCK)
    const cleaned = cleanBlock(samples.subarray(from, Math.min(samples.length, end + MARGIN)), strength, null, given)
    out.set(cleaned.subarray(start - from, end - from), start)
  }
  return out
}

/** Mean power spectrum of a stretch that holds only the room. */
function noiseOf(room: Float32Array): Float64Array {
  const s = stft(room, SIZE, HOP)
  const power = s.re.map((value, i) => value * value + s.im[i]! * s.im[i]!)
  return firstNoise(power, s, { start: 0, end: room.length })
}
