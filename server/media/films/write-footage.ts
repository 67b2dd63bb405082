/** Recorded pieces as one open file, each picture at its own moment. */
import { EncodedPacket, EncodedVideoPacketSource, FilePathTarget, Mp4OutputFormat, Output } from 'mediabunny'
import { FOOTAGE_CODECS, type FootageFrame, unpackPiece } from '#core/recording/footage-pieces.ts'
import { SAMPLE_RATE } from '#core/timing/clocks.ts'
import { type FootageTags, footageComment } from './footage-tags.ts'

export interface WrittenFootage {
  /** Samples of the take: its first picture, and where the last one ends. */
  start: number
  end: number
  pieces: number
}

/**
 * Writes an MP4 whose clock begins with the first picture.
 *
 * @param each gives every piece, in order
 * @returns null, and no file, where no picture came
 */
export async function writeFootage(
  path: string,
  about: Omit<FootageTags, 'start'>,
  each: (take: (piece: Uint8Array) => Promise<void>) => Promise<{ next: number }>,
): Promise<WrittenFootage | null> {
  const { codec, width, height } = about
  let output: Output | null = null
  const source = new EncodedVideoPacketSource(codec)
  const decoderConfig = { codec: FOOTAGE_CODECS[codec], codedWidth: width, codedHeight: height }
  let [start, end] = [0, 0]
  /** How long a picture lasts is known with the next one. */
  let waiting: FootageFrame | null = null
  const write = async (frame: FootageFrame, until: number) => {
    const [timestamp, duration] = [(frame.at - start) / SAMPLE_RATE, Math.max(1, until - frame.at) / SAMPLE_RATE]
    const packet = new EncodedPacket(frame.data, frame.isKey ? 'key' : 'delta', timestamp, duration)
    await source.add(packet, { decoderConfig })
  }
  const begin = async (at: number) => {
    output = new Output({ format: new Mp4OutputFormat({ fastStart: false }), target: new FilePathTarget(path) })
    output.addVideoTrack(source)
    output.setMetadataTags({ comment: footageComment({ ...about, start: at }) })
    start = at
    await output.start()
  }
  try {
    const { next } = await each(async (bytes) => {
      const { until, frames } = unpackPiece(bytes)
      for (const frame of frames) {
        // nothing can be seen before the first picture that stands for itself
        if (!output && !frame.isKey) continue
        if (!output) await begin(frame.at)
        if (waiting) await write(waiting, frame.at)
        // the piece's memory is the next one's; `slice` of what was read from a file is no copy
        waiting = { ...frame, data: Uint8Array.from(frame.data) }
      }
      end = Math.max(end, until)
    })
    if (!output || !waiting) return null
    const last: FootageFrame = waiting
    await write(last, end)
    await (output as Output).finalize()
    return { start, end: Math.max(end, last.at + 1), pieces: next }
  } catch (error) {
    await (output as Output | null)?.cancel()
    throw error
  }
}
