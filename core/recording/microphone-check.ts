/** What a sample sentence tells of a microphone and its room: one verdict and one piece of advice. */

import type { SampleRange } from '#core/model/sample-range.ts'
import type { TakeAnalysis } from '#core/model/take.ts'
import { SAMPLE_RATE } from '#core/timing/clocks.ts'
import { say } from '#core/words/say.ts'

export interface MicrophoneStudy {
  /** Level of the voice while somebody speaks, dBFS; null when nobody was heard. */
  voiceDb: number | null
  /** Level of the room, dBFS; null without a pause. */
  noiseFloorDb: number | null
  /** How far the voice stands out of the room, dB. */
  overRoomDb: number | null
  clipped: boolean
  humHz: number | null
  /** Time in which the sound of the room dies by 20 dB after words, seconds; null where no word ends in a pause. */
  decaySeconds: number | null
}

/** Common practice, no published source: what listeners take for a quiet recording, a usable one, and a bad one. */
const OVER_ROOM = { good: 30, usable: 18 }
/** Common practice, no published source: speech at this level stands clear of the noise of cheap inputs and leaves room above. */
const VOICE_DB = { quiet: -42, loud: -12 }
/** A living room dies by 20 dB in about 0.15 s, a bare classroom in 0.3 s and more (T60 of 0.5 and 0.9 s, ANSI S12.60). */
const ECHO_S = 0.25

const FRAME = SAMPLE_RATE / 100

function levelsOf(samples: Float32Array): number[] {
  const levels: number[] = []
  for (let at = 0; at + FRAME <= samples.length; at += FRAME) {
    let sum = 0
    for (let i = at; i < at + FRAME; i++) sum += samples[i]! * samples[i]!
    levels.push(10 * Math.log10(sum / FRAME + 1e-12))
  }
  return levels
}

const middle = (values: readonly number[]) => [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)] ?? null

/** How long levels take to fall from 5 to 25 dB under what the last words had, for each pause that is long and quiet enough. */
function decays(levels: readonly number[], speech: readonly SampleRange[], noiseFloorDb: number): number[] {
  return speech.flatMap((said, i) => {
    const end = Math.round(said.end / FRAME)
    const next = Math.round((speech[i + 1]?.start ?? levels.length * FRAME) / FRAME)
    const top = Math.max(...levels.slice(Math.max(0, end - 30), end))
    // into the room's own noise nothing can be followed
    if (next - end < 10 || top - 25 < noiseFloorDb + 3) return []
    const last = levels.findLastIndex((level, n) => n < end + 5 && level > top - 5)
    const gone = levels.findIndex((level, n) => n > last && level < top - 25)
    return last < 0 || gone < 0 || gone > next ? [] : [(gone - last) / 100]
  })
}

/** @param samples of the sentence, mono, 48 kHz @param analysis of the same */
export function studyMicrophone(samples: Float32Array, analysis: TakeAnalysis): MicrophoneStudy {
  const levels = levelsOf(samples)
  const voiced = levels.filter((_, n) => analysis.speech.some((s) => n * FRAME >= s.start && n * FRAME < s.end))
  // pauses between syllables are not the voice
  const loud = [...voiced].sort((a, b) => b - a).slice(0, Math.ceil(voiced.length / 2))
  const voiceDb = loud.length > 0 ? 10 * Math.log10(loud.reduce((sum, db) => sum + 10 ** (db / 10), 0) / loud.length) : null
  const { noiseFloorDb, humHz, clippedSamples } = analysis
  return {
    voiceDb,
    noiseFloorDb,
    overRoomDb: voiceDb === null || noiseFloorDb === null ? null : voiceDb - noiseFloorDb,
    clipped: clippedSamples > 0,
    humHz,
    decaySeconds: noiseFloorDb === null ? null : middle(decays(levels, analysis.speech, noiseFloorDb)),
  }
}

export interface Verdict {
  grade: 'good' | 'usable' | 'bad'
  says: string
  advice: string
}

/** The worst thing first: what matters is one thing to do. */
export function verdictOf(study: MicrophoneStudy): Verdict {
  const { voiceDb, overRoomDb, clipped, humHz, decaySeconds } = study
  if (voiceDb === null)
    return {
      grade: 'bad',
      says: say('No voice was heard.'),
      advice: say('Is the microphone muted, or is another one in front of you? Choose it, and say the sentence again.'),
    }
  if (clipped)
    return {
      grade: 'bad',
      says: say('The microphone is too loud: its peaks are cut off.'),
      advice: say('Turn its level down in the settings of your system, or move a hand’s breadth back.'),
    }
  if (overRoomDb !== null && overRoomDb < OVER_ROOM.usable)
    return {
      grade: 'bad',
      says: say('Your room is {excess} dB too loud for the voice.', { excess: Math.ceil(OVER_ROOM.usable - overRoomDb) }),
      advice: say('Move closer to the microphone, close the door, switch the fan off.'),
    }
  if (voiceDb < VOICE_DB.quiet)
    return {
      grade: 'usable',
      says: say('Your voice is faint.'),
      advice: say('Move closer, or turn the level of the microphone up in the settings of your system.'),
    }
  if (decaySeconds !== null && decaySeconds > ECHO_S)
    return {
      grade: 'usable',
      says: say('The room answers with an echo.'),
      advice: say('Move closer to the microphone; curtains, a coat over a chair or a smaller room help.'),
    }
  if (humHz !== null)
    return {
      grade: 'usable',
      says: say('A mains hum of {hertz} Hz is there; it is taken away when a take is tidied.', { hertz: Math.round(humHz) }),
      advice: say('If you can, unplug the charger while recording.'),
    }
  if (voiceDb > VOICE_DB.loud)
    return {
      grade: 'usable',
      says: say('You are very near to the loudest that the microphone takes.'),
      advice: say('Move a little back, or turn its level down.'),
    }
  if (overRoomDb !== null && overRoomDb < OVER_ROOM.good)
    return {
      grade: 'usable',
      says: say('Your voice stands {decibels} dB over the room, which can be cleaned.', { decibels: Math.round(overRoomDb) }),
      advice: say('A quieter room or a hand’s breadth closer would be better still.'),
    }
  return {
    grade: 'good',
    says: say('This is a good place to record.'),
    advice: say('Stay as near to the microphone as you are now.'),
  }
}
