/** Joins the parts of all slides into one MP4. Timestamps come from the schedule alone, so nothing adds up. */
import {
  ALL_FORMATS,
  EncodedAudioPacketSource,
  type EncodedPacket,
  EncodedPacketSink,
  EncodedVideoPacketSource,
  FilePathSource,
  FilePathTarget,
  Input,
  Mp4OutputFormat,
  Output,
} from 'mediabunny'
import { type PlannedSlide, videoFrames } from '#core/edition/plan.ts'
import { AAC_FRAME, toSeconds } from '#core/timing/clocks.ts'
import { PRE_ROLL_PACKETS } from './parts.ts'

export interface MuxSlide extends Pick<PlannedSlide, 'startSamples' | 'lengthSamples' | 'pictures' | 'transition'> {
  /** Paths of the encoded parts. */
  video: string
  sound: string
}

async function packetsOf<T>(
  path: string,
  read: (input: Input) => Promise<{ track: ConstructorParameters<typeof EncodedPacketSink>[0]; config: T }>,
) {
  const input = new Input({ source: new FilePathSource(path), formats: ALL_FORMATS })
  try {
    const { track, config } = await read(input)
    const packets: EncodedPacket[] = []
    for await (const packet of new EncodedPacketSink(track).packets()) packets.push(packet)
    return { config, packets }
  } finally {
    input.dispose()
  }
}

const videoOf = (path: string) =>
  packetsOf(path, async (input) => {
    const track = await input.getPrimaryVideoTrack()
    const config = await track?.getDecoderConfig()
    if (!track || !config) throw new Error(`No picture in part ${path}`)
    return { track, config }
  })

const soundOf = (path: string) =>
  packetsOf(path, async (input) => {
    const track = await input.getPrimaryAudioTrack()
    const config = await track?.getDecoderConfig()
    if (!track || !config) throw new Error(`No sound in part ${path}`)
    return { track, config }
  })

/**
 * @param slides in order, starts being running totals of lengths
 * @param out path of the file to write
 * @throws Error when a part holds fewer packets than its slide needs
 */
export async function muxSlides(slides: readonly MuxSlide[], out: string, signal: AbortSignal) {
  const output = new Output({ format: new Mp4OutputFormat({ fastStart: false }), target: new FilePathTarget(out) })
  const video = new EncodedVideoPacketSource('avc')
  const sound = new EncodedAudioPacketSource('aac')
  output.addVideoTrack(video)
  output.addAudioTrack(sound)
  await output.start()
  try {
    for (const slide of slides) {
      signal.throwIfAborted()
      const frames = videoFrames(slide)
      const pictures = await videoOf(slide.video)
      if (pictures.packets.length !== frames.length)
        throw new Error(`Part ${slide.video} holds ${pictures.packets.length} of ${frames.length} frames`)
      for (const [i, packet] of pictures.packets.entries()) {
        const { at } = frames[i]!
        const duration = toSeconds((frames[i + 1]?.at ?? slide.lengthSamples) - at)
        await video.add(packet.clone({ timestamp: toSeconds(slide.startSamples + at), duration }), {
          decoderConfig: pictures.config,
        })
      }
      const spoken = await soundOf(slide.sound)
      const wanted = slide.lengthSamples / AAC_FRAME
      const own = spoken.packets.slice(PRE_ROLL_PACKETS, PRE_ROLL_PACKETS + wanted)
      if (own.length < wanted) throw new Error(`Part ${slide.sound} holds ${own.length} of ${wanted} packets`)
      for (const [i, packet] of own.entries()) {
        const timestamp = toSeconds(slide.startSamples + i * AAC_FRAME)
        await sound.add(packet.clone({ timestamp, duration: toSeconds(AAC_FRAME) }), { decoderConfig: spoken.config })
      }
    }
    await output.finalize()
  } catch (error) {
    await output.cancel()
    throw error
  }
}
