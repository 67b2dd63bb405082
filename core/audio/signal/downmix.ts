/** One channel out of several. */
import { rms } from './pcm.ts'

/** A channel this far below the loudest one is dead: a plug half in, a microphone on one side only. */
const DEAD_BELOW = 10 ** (-35 / 20)

/** @param levels root mean square of each channel @returns which of them carry sound; one at least */
export function aliveChannels(levels: readonly number[]): number[] {
  const loudest = Math.max(...levels)
  return [...levels.keys()].filter((channel) => levels[channel]! >= loudest * DEAD_BELOW)
}

/** Two channels that are this much alike, one of them turned over, leave next to nothing when they are added up. Common practice, no published source. */
const CANCELS_BELOW = -0.9

/**
 * Whether two channels cancel each other out: a plug wired the wrong way round.
 *
 * @param levels root mean square of each of the two, above 0
 * @param ofMean root mean square of their mean, from which their correlation follows
 */
export function cancelEachOther([a, b]: readonly [number, number], ofMean: number): boolean {
  const correlation = (4 * ofMean ** 2 - a ** 2 - b ** 2) / (2 * a * b)
  return correlation < CANCELS_BELOW
}

/**
 * Mean of the channels that carry sound. A dead channel is left out: with it the voice would be 6 dB quieter than it is. Of two that cancel
 * each other out the louder one is taken alone.
 *
 * @param channels equal lengths, full scale ±1; one at least
 * @returns the one channel, how many carried no sound, and whether two cancelled each other out
 */
export function monoOf(channels: readonly Float32Array[]): { samples: Float32Array; dead: number; cancels: boolean } {
  const levels = channels.map((channel) => rms(channel))
  const alive = aliveChannels(levels)
  const dead = channels.length - alive.length
  const [first, second] = alive as [number, number | undefined]
  if (second === undefined) return { samples: channels[first]!, dead, cancels: false }
  const samples = channels[first]!.map((_, i) => alive.reduce((sum, channel) => sum + channels[channel]![i]!, 0) / alive.length)
  if (alive.length > 2 || !cancelEachOther([levels[first]!, levels[second]!], rms(samples)))
    return { samples, dead, cancels: false }
  return { samples: channels[levels[first]! >= levels[second]! ? first : second]!, dead, cancels: true }
}
