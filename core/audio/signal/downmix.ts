/** One channel out of several. */
import { rms } from './pcm.ts'

/** A channel this far below the loudest one is dead: a plug half in, a microphone on one side only. */
const DEAD_BELOW = 10 ** (-35 / 20)

/** @param levels root mean square of each channel @returns which of them carry sound; one at least */
export function aliveChannels(levels: readonly number[]): number[] {
  const loudest = Math.max(...levels)
  return [...levels.keys()].filter((channel) => levels[channel]! >= loudest * DEAD_BELOW)
}

/**
 * Mean of the channels that carry sound. A dead channel is left out: with it the voice would be 6 dB quieter than it is.
 *
 * @param channels equal lengths, full scale ±1; one at least
 * @returns the one channel, and how many were left out
 */
export function monoOf(channels: readonly Float32Array[]): { samples: Float32Array; dead: number } {
  const alive = aliveChannels(channels.map((channel) => rms(channel))).map((channel) => channels[channel]!)
  if (alive.length === 1) return { samples: alive[0]!, dead: channels.length - 1 }
  const samples = alive[0]!.map((_, i) => alive.reduce((sum, channel) => sum + channel[i]!, 0) / alive.length)
  return { samples, dead: channels.length - alive.length }
}
