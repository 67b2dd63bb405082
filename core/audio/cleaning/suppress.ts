/**
 * Takes room noise away and leaves the voice: a statistical suppressor that looks both ways in time, guided by the voice model.
 * The phase is kept as recorded.
 */
import { findSpeech } from '../activity.ts'
import { HOP, inverseStft, SIZE } from '../stft.ts'
import { BAND_EDGES, BANDS, SPEAKING_HOP, STRIDE, stepFeatures } from './features.ts'
import { logMmseGain, roughLog10 } from './gain.ts'
import { firstNoise, trackNoise } from './noise.ts'
import { BIN_HZ, frameMiddle, type Spectrum, spectrumOf, UNIT_EDGES, UNITS, VOICE_UNITS } from './spectrum.ts'
import { type VoiceMask, voiceMask } from './voice-model.ts'

/** Decision-directed smoothing (Ephraim & Malah 1984, equation 51). */
const ALPHA = 0.94
const LEAST_XI = 10 ** (-18 / 10)
/** The voice model's share in the a-priori ratio and in the gain; the statistical part has the rest. */
const MODEL_IN_XI = 0.4
const MODEL_IN_GAIN = 0.65
/** Where the voice stands far out of the noise the model has nothing to add and only takes away: its say fades between these, in bels. */
const [MODEL_HEARD_BELOW, MODEL_SILENT_ABOVE] = [1.0, 2.2]
const modelSay = (logXi: number) =>
  logXi <= MODEL_HEARD_BELOW
    ? 1
    : logXi >= MODEL_SILENT_ABOVE
      ? 0
      : (MODEL_SILENT_ABOVE - logXi) / (MODEL_SILENT_ABOVE - MODEL_HEARD_BELOW)
/** From speech to pause and back the treatment changes over so many samples. */
const SLOPE = Math.round(0.03 * 48_000)
/** Recordings that are clean already are left alone: the treatment fades out between these ratios of voice to room. */
const [TREATED_BELOW_DB, UNTREATED_ABOVE_DB] = [44, 54]

/** What lies below 70 Hz is left alone under the first and filtered out above the second, relative to the voice. */
const [NO_RUMBLE_DB, RUMBLE_DB] = [-46, -36]

/** Everything about a recording that does not depend on how strongly it is cleaned; it is worth keeping while a strength is chosen. */
export interface CleaningStudy {
  spectrum: Spectrum
  noise: Float32Array
  /** A-priori ratio of every unit and frame, statistical and learned together: decimal logarithm. */
  logXi: Float32Array
  mask: VoiceMask
  /** Presence of a voice in each frame, 0 to 1. */
  presence: Float32Array
  /** Level of the voice over the room, dB. */
  voiceOverRoomDb: number
  /** 1 where something lies below the voice (rumble, a shifted zero line), 0 where nothing does. */
  rumbleNeed: number
}

/** One direction of the decision-directed ratio; the larger of both directions is kept. */
function decide({ power, frames }: Spectrum, noise: Float32Array, backward: boolean, into: Float32Array) {
  const before = new Float64Array(UNITS).fill(1)
  for (let step = 0; step < frames; step++) {
    const row = (backward ? frames - 1 - step : step) * UNITS
    for (let u = 0; u < UNITS; u++) {
      let gamma = power[row + u]! / noise[row + u]!
      if (gamma > 1e4) gamma = 1e4
      let xi = ALPHA * before[u]! + (gamma > 1 ? (1 - ALPHA) * (gamma - 1) : 0)
      if (xi < LEAST_XI) xi = LEAST_XI
      const gain = logMmseGain(xi, gamma)
      before[u] = gain * gain * gamma
      if (xi > into[row + u]!) into[row + u] = xi
    }
  }
}

// units between the centres of bands take from both
const BAND_BELOW = new Int32Array(VOICE_UNITS)
const SHARE_ABOVE = new Float64Array(VOICE_UNITS)
{
  const centre = (b: number) => (BAND_EDGES[b]! + BAND_EDGES[b + 1]! - 1) / 2
  for (let u = 0, b = 0; u < VOICE_UNITS; u++) {
    while (b < BANDS - 2 && centre(b + 1) < u) b++
    BAND_BELOW[u] = b
    SHARE_ABOVE[u] = Math.min(1, Math.max(0, (u - centre(b)) / (centre(b + 1) - centre(b))))
  }
}

/** The model's gain for every voice unit of a frame. */
function modelGain(mask: VoiceMask, frame: number, row: Float64Array) {
  const at = Math.min(mask.steps - 1, frame / STRIDE)
  const first = Math.floor(at) * BANDS
  const second = Math.min(mask.steps - 1, Math.floor(at) + 1) * BANDS
  const later = at - Math.floor(at)
  for (let u = 0; u < VOICE_UNITS; u++) {
    const b = BAND_BELOW[u]!
    const above = SHARE_ABOVE[u]!
    const now = mask.gain[first + b]! * (1 - above) + mask.gain[first + b + 1]! * above
    const then = mask.gain[second + b]! * (1 - above) + mask.gain[second + b + 1]! * above
    row[u] = now + later * (then - now)
  }
}

/** Where a stretch of speech begins and ends the model may be unsure: between these it is a voice by part. */
const [UNLIKELY, LIKELY] = [0.15, 0.6]
/** What is surely a voice, as `findSpeech` has it; and how far around a step its surest neighbour is looked for. */
const [SURE, NEAR_STEPS] = [0.8, 2]

/**
 * Presence of a voice in each frame: 1 in speech, 0 in pauses, with short slopes between. Single frames in which the model
 * is wrong do not count: in a pause they would be heard as chirps. Nor does the room that is taken in with a soft beginning or a fading end.
 */
function framePresence({ speaking, steps }: VoiceMask, frames: number): Float32Array {
  const length = frames * HOP
  const presence = new Float32Array(frames)
  const near = (step: number) => {
    let most = 0
    for (let s = Math.max(0, step - NEAR_STEPS); s <= Math.min(steps - 1, step + NEAR_STEPS); s++)
      most = Math.max(most, speaking[s]!)
    return Math.min(1, Math.max(0, (most - UNLIKELY) / (LIKELY - UNLIKELY)))
  }
  for (const { start, end } of findSpeech(speaking, length + SIZE)) {
    // steps are counted from the first frame, whose middle lies before the first sample
    const [from, to] = [start + frameMiddle(0) - SPEAKING_HOP / 2, end + frameMiddle(0) - SPEAKING_HOP / 2]
    let [first, last] = [Math.floor(start / SPEAKING_HOP), Math.min(steps - 1, Math.ceil(end / SPEAKING_HOP))]
    while (first < last && speaking[first]! < SURE) first++
    while (last > first && speaking[last]! < SURE) last--
    for (let f = Math.max(0, Math.floor((from - SLOPE - frameMiddle(0)) / HOP)); f < frames; f++) {
      const middle = frameMiddle(f)
      const outside = Math.max(from - middle, middle - to)
      if (outside > SLOPE && middle > to) break
      const step = Math.round(f / STRIDE)
      const part = step >= first && step <= last ? 1 : near(step)
      presence[f] = Math.max(presence[f]!, part * Math.min(1, 1 - outside / SLOPE))
    }
  }
  return presence
}

const median = (values: number[]) => values.sort((x, y) => x - y)[values.length >> 1] ?? 0
const FEWEST_PAUSES = 10

/**
 * Voice against room and against what lies below it. The room is what is heard in pauses; only a recording without any is
 * judged by the followed noise, which between words is a little too high.
 */
function levels({ power, frames }: Spectrum, noise: Float32Array, presence: Float32Array) {
  let [voice, spoken, followed] = [0, 0, 0]
  const rooms: number[] = []
  const lows: number[] = []
  for (let f = 0; f < frames; f++) {
    let [total, under] = [0, 0]
    for (let u = 2; u < UNITS; u++) {
      const width = UNIT_EDGES[u + 1]! - UNIT_EDGES[u]!
      total += power[f * UNITS + u]! * width
      under += noise[f * UNITS + u]! * width
    }
    followed += under / frames
    const low = power[f * UNITS]! + power[f * UNITS + 1]!
    if (presence[f] === 1) {
      voice += total
      spoken++
    } else if (presence[f] === 0) {
      rooms.push(total)
      lows.push(low)
    }
  }
  const voicePower = voice / Math.max(1, spoken) + 1e-12
  const heard = rooms.length >= FEWEST_PAUSES
  const lowDb = heard ? 10 * Math.log10((median(lows) + 1e-12) / voicePower) : 0
  return {
    voiceOverRoomDb: 10 * Math.log10(voicePower / ((heard ? median(rooms) : followed) + 1e-12)),
    rumbleNeed: Math.min(1, Math.max(0, (lowDb - NO_RUMBLE_DB) / (RUMBLE_DB - NO_RUMBLE_DB))),
  }
}

/**
 * Studies a recording once, for any strength of cleaning.
 *
 * @param samples mono, 48 kHz
 * @param first noise to begin with, as `firstNoise` gives it; null to find it
 */
export function studyForCleaning(samples: Float32Array, first: Float64Array | null): CleaningStudy {
  const spectrum = spectrumOf(samples)
  const noise = trackNoise(spectrum, first ?? firstNoise(spectrum, null))
  const mask = voiceMask(stepFeatures(spectrum, noise))
  const logXi = new Float32Array(spectrum.power.length)
  decide(spectrum, noise, false, logXi)
  decide(spectrum, noise, true, logXi)
  for (let i = 0; i < logXi.length; i++) logXi[i] = roughLog10(logXi[i]!)
  const presence = framePresence(mask, spectrum.frames)
  const model = new Float64Array(VOICE_UNITS)
  for (let f = 0; f < spectrum.frames; f++) {
    modelGain(mask, f, model)
    for (let u = 0; u < VOICE_UNITS; u++) {
      const wiener = Math.min(0.9999, model[u]! * model[u]!)
      const learned = roughLog10(Math.max(1e-3, wiener / (1 - wiener)))
      const at = f * UNITS + u
      const share = MODEL_IN_XI * modelSay(logXi[at]!)
      logXi[at] = (1 - share) * logXi[at]! + share * learned
    }
  }
  return {
    spectrum,
    noise,
    logXi,
    mask,
    presence,
    ...levels(spectrum, noise, presence),
  }
}

// powers of ten by table, 64 to a decade, from 10⁻⁸ to 10⁶
const POWERS = Float64Array.from({ length: 64 * 14 + 2 }, (_, i) => 10 ** (i / 64 - 8))
function tenTo(x: number): number {
  const at = (x + 8) * 64
  if (at <= 0) return POWERS[0]!
  const i = at | 0
  return POWERS[i]! + (at - i) * (POWERS[i + 1]! - POWERS[i]!)
}

/** Rumble is taken away here too, where it costs nothing: a high-pass of the fourth order (Butterworth) without any shift of phase. */
export function highPassGain(hz: number | null, bin: number): number {
  if (hz === null) return 1
  const ratio = ((bin * BIN_HZ) / hz) ** 4
  return ratio / Math.sqrt(1 + ratio * ratio)
}

/** How far pauses and the noise under words fall at a strength, dB. @param strength 0 to 1; 0.6 is moderate */
export function floorsAt(strength: number): { speechDb: number; pauseDb: number } {
  // beyond the moderate setting both go on more slowly, so that no strength makes a voice metallic
  const much = strength <= 0.6 ? strength / 0.6 : 1 + (strength - 0.6) / 1.6
  return { speechDb: -38 * much, pauseDb: -48 * much }
}

/**
 * Applies a strength to a studied recording.
 *
 * @param study as `studyForCleaning` gives it; its spectrum is not changed
 * @param strength 0 to 1; 0 leaves everything but the rumble
 * @param highPassHz corner of the high-pass; null for none
 * @param length of the recording in samples
 * @see Ephraim & Malah 1985 (gain), Cohen 2003, IEEE Trans. SAP 11(5), equations 8 and 16 (presence of speech)
 */
export function cleanStudied(
  study: CleaningStudy,
  strength: number,
  highPassHz: number | null,
  length: number,
): Float32Array<ArrayBuffer> {
  const { spectrum, noise, logXi, mask, presence, voiceOverRoomDb, rumbleNeed } = study
  const { power } = spectrum
  const { speechDb, pauseDb } = floorsAt(strength)
  const range = UNTREATED_ABOVE_DB - TREATED_BELOW_DB
  const wet = Math.min(1, Math.max(0, (UNTREATED_ABOVE_DB - voiceOverRoomDb) / range))
  const [speechFloor, pauseFloor] = [speechDb / 20, pauseDb / 20]
  const logGain = new Float64Array(UNITS)
  const filtered = Math.max(wet, rumbleNeed)
  const rumble = Float64Array.from(
    { length: UNITS },
    (_, u) => filtered * Math.log10(highPassGain(highPassHz, UNIT_EDGES[u]!) + 1e-6),
  )
  const model = new Float64Array(VOICE_UNITS)
  const weights = new Float64Array(UNITS)
  return inverseStft(spectrum.stft, length, (f, floats, re, im) => {
    const row = f * UNITS
    const speaking = presence[f]!
    const floor = pauseFloor + speaking * (speechFloor - pauseFloor)
    if (speaking <= 0) logGain.fill(pauseFloor)
    else {
      modelGain(mask, f, model)
      for (let u = 0; u < UNITS; u++) {
        let gamma = power[row + u]! / noise[row + u]!
        if (gamma > 1e4) gamma = 1e4
        const log = logXi[row + u]!
        const xi = tenTo(log)
        let gain = roughLog10(logMmseGain(xi, gamma))
        if (gain > 0) gain = 0
        if (gain < floor) gain = floor
        // presence in this unit: its own ratio and that of the frame
        let local = (10 * log + 15) / 12
        if (local > 1) local = 1
        else if (local < 0.05) local = 0.05
        let absent = 1 - speaking * local
        if (absent < 0.05) absent = 0.05
        else if (absent > 0.95) absent = 0.95
        const v = (gamma * xi) / (1 + xi)
        const present = v > 30 ? 1 : 1 / (1 + (absent / (1 - absent)) * (1 + xi) * Math.exp(-v))
        gain = present * gain + (1 - present) * floor
        if (u < VOICE_UNITS) {
          const learned = roughLog10(model[u]! + 1e-6)
          const share = MODEL_IN_GAIN * modelSay(log)
          gain = (1 - share) * gain + share * (learned < floor ? floor : learned)
        }
        if (gain < floor) gain = floor
        // towards the room alone the gain becomes one and the same everywhere: no lone bin rings as a tone
        logGain[u] = speaking * gain + (1 - speaking) * pauseFloor
      }
    }
    for (let u = 0; u < UNITS; u++) weights[u] = tenTo(wet * logGain[u]! + rumble[u]!)
    for (let u = 0; u < UNITS; u++) {
      const w = weights[u]!
      const to = UNIT_EDGES[u + 1]!
      for (let k = UNIT_EDGES[u]!; k < to; k++) {
        floats[re + k] = floats[re + k]! * w
        floats[im + k] = floats[im + k]! * w
      }
    }
  })
}
