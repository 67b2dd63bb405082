/** A short reading with slips at known places, spoken by the synthesiser: begun anew, an "um", a cough. */
import { Resampler } from '#core/audio/signal/resample.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { openSynthesiser } from '#server/speech/synthesiser.ts'
import { heldVowel, lay, noise, seconds } from './sound.ts'

export const SLIPPING_SCRIPT =
  'Lower the stick gently. If you drop it, water climbs the wood. Lift it straight out. Read that line to the nearest hundredth.'

export interface Slipping {
  /** Mono, 48 kHz. */
  samples: Float32Array
  /** Where they are, seconds. */
  anew: { start: number; end: number }
  um: { start: number; end: number }
  cough: { start: number; end: number }
}

export async function slipping(): Promise<Slipping> {
  const voice = (await openSynthesiser('en'))!
  const speak = (text: string) => {
    const { samples, rate } = voice.speak(text)
    return new Resampler(rate, 48_000).push(samples).map((v) => 0.6 * v)
  }
  const pieces: { sound: Float32Array; at: number }[] = []
  let at = seconds(0.6)
  const say = (sound: Float32Array, rest: number) => {
    const place = { start: toSeconds(at), end: toSeconds(at + sound.length) }
    pieces.push({ sound, at })
    at += sound.length + seconds(rest)
    return place
  }
  say(speak('Lower the stick gently.'), 0.5)
  const anew = say(speak('If you drop it, water'), 0.5)
  say(speak('If you drop it, water climbs the wood.'), 0.5)
  const held = say(heldVowel(seconds(0.45), [550, 1400], 110), 0.45)
  say(speak('Lift it straight out.'), 0.6)
  const burst = noise(0.16, seconds(0.3), 6).map((v, i) => v * Math.exp(-i / seconds(0.12)))
  const cough = say(burst, 0.6)
  say(speak('Read that line to the nearest hundredth.'), 0.6)
  const samples = noise(0.0006, at, 2)
  for (const piece of pieces) lay(samples, piece.sound, piece.at)
  return { samples, anew, um: held, cough }
}
