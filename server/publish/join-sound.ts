/** Joins the sounds of slides: the frames of each one's own samples, in a row. */
import { open, readFile } from 'node:fs/promises'
import { AAC_FRAME } from '#core/timing/clocks.ts'
import { PRE_ROLL_PACKETS } from '#server/encode/sound-segment.ts'

/** ADTS begins each frame with this. @see ISO/IEC 14496-3, §1.A.2.2 */
const SYNC = 0xfff

/** @returns where each frame of an ADTS stream begins, and where the last ends */
export function frameStarts(stream: Uint8Array): number[] {
  const starts: number[] = []
  let at = 0
  while (at + 7 <= stream.length) {
    if (((stream[at]! << 4) | (stream[at + 1]! >> 4)) !== SYNC) throw new Error(`No frame at byte ${at} of a sound segment`)
    starts.push(at)
    at += ((stream[at + 3]! & 3) << 11) | (stream[at + 4]! << 3) | (stream[at + 5]! >> 5)
  }
  return [...starts, at]
}

/**
 * @param slides paths of segments, and how many samples each slide lasts
 * @param out path of an ADTS stream with exactly one frame for each 1024 samples
 * @throws Error when a segment holds fewer frames than its slide needs
 */
export async function joinSound(slides: readonly { sound: string; lengthSamples: number }[], out: string, signal: AbortSignal) {
  const file = await open(out, 'wx')
  try {
    for (const { sound, lengthSamples } of slides) {
      signal.throwIfAborted()
      const stream = await readFile(sound)
      const starts = frameStarts(stream)
      const last = PRE_ROLL_PACKETS + lengthSamples / AAC_FRAME
      if (last >= starts.length) throw new Error(`Segment ${sound} holds ${starts.length - 1} of ${last} frames`)
      await file.writeFile(stream.subarray(starts[PRE_ROLL_PACKETS], starts[last]))
    }
  } finally {
    await file.close()
  }
}
