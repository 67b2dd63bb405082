/**
 * Takes room noise away and leaves the voice: a statistical suppressor that looks both ways in time, guided by the voice model.
 * The phase is kept as recorded.
 */

import { HOP, inverseStft, SIZE } from '#core/audio/signal/stft.ts'
import { findSpeech, SPEAKING_HOP } from '#core/audio/speech/voice-activity.ts'
import { BIN_HZ, frameMiddle, type Spectrum, spectrumOf, UNIT_EDGES, UNITS, VOICE_UNITS } from './bands.ts'
import { BELIEF, floorsAt, PRESENCE, TREATMENT } from './floors.ts'
import { BAND_EDGES, BANDS, STRIDE, stepFeatures } from './model-features.ts'
import { firstNoise, trackNoise } from './noise-estimate.ts'
import { inChunks, ROW_BYTES, unitRows } from './unit-rows.ts'
import { type VoiceMask, voiceMask } from './voice-model.ts'

/** Everything about a recording that does not depend on how strongly it is cleaned; it is worth keeping while a strength is chosen. */
export interface CleaningStudy {
  spectrum: Spectrum
  /** Under every unit and frame, as the statistical part counts it. */
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
  const { floats, call, at } = unitRows()
  floats.fill(1, at.state, at.state + UNITS)
  inChunks(frames, backward, (first, count) => {
    const [from, to] = [first * UNITS, (first + count) * UNITS]
    floats.set(power.subarray(from, to), at.power)
    floats.set(noise.subarray(from, to), at.noise)
    floats.set(into.subarray(from, to), at.xi)
    call.decide(
      at.power * 4,
      at.noise * 4,
      at.state * 4,
      at.xi * 4,
      count,
      ROW_BYTES,
      backward,
      BELIEF.smoothing,
      BELIEF.leastRatio,
    )
    into.set(floats.subarray(at.xi, at.xi + to - from), from)
  })
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

/** The model's gain for every voice unit of a frame, into `floats` from `row` on. */
function modelGain(mask: VoiceMask, frame: number, floats: Float32Array, row: number) {
  const at = Math.min(mask.steps - 1, frame / STRIDE)
  const first = Math.floor(at) * BANDS
  const second = Math.min(mask.steps - 1, Math.floor(at) + 1) * BANDS
  const later = at - Math.floor(at)
  for (let u = 0; u < VOICE_UNITS; u++) {
    const b = BAND_BELOW[u]!
    const above = SHARE_ABOVE[u]!
    const now = mask.roots[first + b]! * (1 - above) + mask.roots[first + b + 1]! * above
    const then = mask.roots[second + b]! * (1 - above) + mask.roots[second + b + 1]! * above
    floats[row + u] = (now + later * (then - now)) ** 2
  }
}

/**
 * Presence of a voice in each frame: 1 in speech, 0 in pauses, with short slopes between. Single frames in which the model
 * is wrong do not count: in a pause they would be heard as chirps. Nor does the room that is taken in with a soft beginning or a fading end.
 */
function framePresence({ voiceProbability, steps }: VoiceMask, frames: number): Float32Array {
  const length = frames * HOP
  const presence = new Float32Array(frames)
  const near = (step: number) => {
    let most = 0
    for (let s = Math.max(0, step - PRESENCE.nearSteps); s <= Math.min(steps - 1, step + PRESENCE.nearSteps); s++)
      most = Math.max(most, voiceProbability[s]!)
    return Math.min(1, Math.max(0, (most - PRESENCE.unlikely) / (PRESENCE.likely - PRESENCE.unlikely)))
  }
  for (const { start, end } of findSpeech(voiceProbability, length + SIZE)) {
    // steps are counted from the first frame, whose middle lies before the first sample
    const [from, to] = [start + frameMiddle(0) - SPEAKING_HOP / 2, end + frameMiddle(0) - SPEAKING_HOP / 2]
    let [first, last] = [Math.floor(start / SPEAKING_HOP), Math.min(steps - 1, Math.ceil(end / SPEAKING_HOP))]
    while (first < last && voiceProbability[first]! < PRESENCE.sure) first++
    while (last > first && voiceProbability[last]! < PRESENCE.sure) last--
    for (let f = Math.max(0, Math.floor((from - PRESENCE.slopeSamples - frameMiddle(0)) / HOP)); f < frames; f++) {
      const middle = frameMiddle(f)
      const outside = Math.max(from - middle, middle - to)
      if (outside > PRESENCE.slopeSamples && middle > to) break
      const step = Math.round(f / STRIDE)
      const part = step >= first && step <= last ? 1 : near(step)
      presence[f] = Math.max(presence[f]!, part * Math.min(1, 1 - outside / PRESENCE.slopeSamples))
    }
  }
  return presence
}

/** @returns the probability that words are said, 0 where it is far too soft for that */
function loudEnough({ speechProbability, steps }: VoiceMask, { power }: Spectrum): Float32Array<ArrayBuffer> {
  const powers = Float64Array.from({ length: steps }, (_, s) => {
    let sum = 0
    const row = s * STRIDE * UNITS
    for (let u = 2; u < VOICE_UNITS; u++) sum += power[row + u]! * (UNIT_EDGES[u + 1]! - UNIT_EDGES[u]!)
    return sum
  })
  const least = PRESENCE.leastSaid * median([...powers].filter((_, s) => speechProbability[s]! > PRESENCE.said))
  return Float32Array.from(speechProbability, (probability, s) => (powers[s]! < least ? 0 : probability))
}

const median = (values: number[]) => values.sort((x, y) => x - y)[values.length >> 1] ?? 0

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
  const heard = rooms.length >= TREATMENT.fewestPauses
  const lowDb = heard ? 10 * Math.log10((median(lows) + 1e-12) / voicePower) : 0
  return {
    voiceOverRoomDb: 10 * Math.log10(voicePower / ((heard ? median(rooms) : followed) + 1e-12)),
    rumbleNeed: Math.min(1, Math.max(0, (lowDb - TREATMENT.noRumbleDb) / (TREATMENT.rumbleDb - TREATMENT.noRumbleDb))),
  }
}

/**
 * Studies a recording once, for any strength of cleaning.
 *
 * @param samples mono, 48 kHz
 * @param first noise to begin with, as `firstNoise` gives it; null to find it
 */
export function analyseForDenoise(samples: Float32Array, first: Float64Array | null): CleaningStudy {
  const spectrum = spectrumOf(samples)
  const noise = trackNoise(spectrum, first ?? firstNoise(spectrum, null))
  const heard = voiceMask(stepFeatures(spectrum, noise))
  const mask = { ...heard, speechProbability: loudEnough(heard, spectrum) }
  for (let i = 0; i < noise.length; i++) noise[i] = noise[i]! * BELIEF.noiseCounted
  const logXi = new Float32Array(spectrum.power.length)
  decide(spectrum, noise, false, logXi)
  decide(spectrum, noise, true, logXi)
  const presence = framePresence(mask, spectrum.frames)
  const { floats, call, at } = unitRows()
  for (let u = 0; u < UNITS; u++) floats[at.share + u] = u < VOICE_UNITS ? BELIEF.modelInRatio : 0
  floats.fill(0, at.model, at.model + UNITS)
  for (let f = 0; f < spectrum.frames; f++) {
    modelGain(mask, f, floats, at.model)
    floats.set(logXi.subarray(f * UNITS, (f + 1) * UNITS), at.xi)
    call.mixRatios(at.xi * 4, at.model * 4, at.share * 4, ROW_BYTES, BELIEF.modelHeardBelow, BELIEF.modelSilentAbove)
    logXi.set(floats.subarray(at.xi, at.xi + UNITS), f * UNITS)
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

/** Rumble is taken away here too, where it costs nothing: a high-pass of the fourth order (Butterworth) without any shift of phase. */
export function highPassGain(hz: number | null, bin: number): number {
  if (hz === null) return 1
  const ratio = ((bin * BIN_HZ) / hz) ** 4
  return ratio / Math.sqrt(1 + ratio * ratio)
}

/**
 * Applies a strength to a studied recording.
 *
 * @param study as `analyseForDenoise` gives it; its spectrum is not changed
 * @param strength 0 to 1; 0 leaves everything but the rumble
 * @param highPassHz corner of the high-pass; null for none
 * @param length of the recording in samples
 * @see Ephraim & Malah 1985 (gain), Cohen 2003, IEEE Trans. SAP 11(5), equations 8 and 16 (presence of speech): in the kernels
 */
export function applyDenoise(
  study: CleaningStudy,
  strength: number,
  highPassHz: number | null,
  length: number,
): Float32Array<ArrayBuffer> {
  const { spectrum, noise, logXi, mask, presence, voiceOverRoomDb, rumbleNeed } = study
  const { power } = spectrum
  const { speechDb, pauseDb } = floorsAt(strength)
  const range = TREATMENT.noneAboveDb - TREATMENT.allBelowDb
  const wet = Math.min(1, Math.max(0, (TREATMENT.noneAboveDb - voiceOverRoomDb) / range))
  const [speechFloor, pauseFloor] = [speechDb / 20, pauseDb / 20]
  const filtered = Math.max(wet, rumbleNeed)
  const rumble = Float32Array.from(
    { length: UNITS },
    (_, u) => filtered * Math.log10(highPassGain(highPassHz, UNIT_EDGES[u]!) + 1e-6),
  )
  const inPauses = rumble.map((log) => 10 ** (wet * pauseFloor + log))
  const { floats, call, at } = unitRows()
  for (let u = 0; u < UNITS; u++) floats[at.share + u] = u < VOICE_UNITS ? BELIEF.modelInGain : 0
  floats.fill(0, at.model, at.model + UNITS)
  floats.set(rumble, at.rumble)
  return inverseStft(spectrum.stft, length, (f, re, im) => {
    const [from, to] = [f * UNITS, (f + 1) * UNITS]
    const present = presence[f]!
    if (present <= 0) floats.set(inPauses, at.weights)
    else {
      modelGain(mask, f, floats, at.model)
      floats.set(power.subarray(from, to), at.power)
      floats.set(noise.subarray(from, to), at.noise)
      floats.set(logXi.subarray(from, to), at.xi)
      const floor = pauseFloor + present * (speechFloor - pauseFloor)
      call.weighUnits(
        at.power * 4,
        at.noise * 4,
        at.xi * 4,
        at.model * 4,
        at.share * 4,
        at.rumble * 4,
        at.weights * 4,
        ROW_BYTES,
        present,
        floor,
        pauseFloor,
        wet,
        BELIEF.modelHeardBelow,
        BELIEF.modelSilentAbove,
      )
    }
    call.weighBins(re * 4, im * 4, at.weights * 4, at.edges * 4, UNITS)
  })
}
