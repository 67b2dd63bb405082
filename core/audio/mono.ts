/** One channel out of several. */
import { rms } from './pcm.ts'

/** A channel this far below the loudest one is dead: a plug half in, a microphone on one side only. */
const DEAD_BELOW = 10 ** (-35 / 20)

/**
 * Mean of the channels that carry sound. A dead channel is left out: with it the voice would be 6 dB quieter than it is.
 *
 * @param channels equal lengths, full scale ±1; one at least
 * @returns the one channel, and how many were left out
 */
export function monoOf(channels: readonly Float32Array[]): { samples: Float32Array; dead: number } {
  const levels = channels.map((channel) => rms(channel))
  const loudest = Math.max(...levels)
  const alive = channels.filter((_, i) => levels[i]! >= loudest * DEAD_BELOW)
  if (alive.length === 1) return { samples: alive[0]!, dead: channels.length - 1 }
  const samples = alive[0]!.map((_, i) => alive.reduce((sum, channel) => sum + channel[i]!, 0) / alive.length)
  return { samples, dead: channels.length - alive.length }
}

/** The same for 16-bit samples, in place of the first channel where they are added up. */
export function monoOfPcm(channels: readonly Int16Array[]): Int16Array {
  const levels = channels.map((channel) => {
    let sum = 0
    for (let i = 0; i < channel.length; i++) sum += channel[i]! * channel[i]!
    return Math.sqrt(sum / Math.max(1, channel.length))
  })
  const loudest = Math.max(...levels)
  const alive = channels.filter((_, i) => levels[i]! >= loudest * DEAD_BELOW)
  const [first, ...others] = alive
  if (others.length === 0) return first!
  const out = new Int16Array(first!.length)
  for (let i = 0; i < out.length; i++) {
    let sum = first![i]!
    for (const other of others) sum += other[i]!
    out[i] = Math.round(sum / alive.length)
  }
  return out
}
