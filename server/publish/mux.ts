/** Joins the pictures of all slides into one file. Timestamps come from the schedule alone, so nothing adds up. */
import {
  ALL_FORMATS,
  type EncodedPacket,
  EncodedPacketSink,
  EncodedVideoPacketSource,
  FilePathSource,
  FilePathTarget,
  Input,
  Mp4OutputFormat,
  Output,
  WebMOutputFormat,
} from 'mediabunny'
import { type ShownFrame, slideFrames } from '#core/edition/frames/frames.ts'
import { frameNumberBits, isKeyPacket, withFrameNumber } from '#core/edition/frames/h264-frame-number.ts'
import type { PlannedSlide } from '#core/edition/plan.ts'
import { gridSamples, type VideoForm } from '#core/edition/video-form.ts'
import { toSeconds } from '#core/timing/clocks.ts'

export interface MuxSlide extends Pick<PlannedSlide, 'startSamples' | 'lengthSamples' | 'pictures' | 'transition' | 'films'> {
  /** Path of the encoded segment. */
  video: string
}

/** Players are told once how a stream is coded: what each segment says of itself must be the same. */
function isSameStream(a: VideoDecoderConfig, b: VideoDecoderConfig): boolean {
  const told = ({ description }: VideoDecoderConfig) =>
    Buffer.from((description as ArrayBuffer | undefined) ?? new ArrayBuffer(0))
  return a.codec === b.codec && a.codedWidth === b.codedWidth && told(a).equals(told(b))
}

/** Reads the packets of a segment in their order, and keeps those that are still wanted. */
class SegmentReader {
  readonly #input: Input
  readonly #path: string
  readonly #lastUse = new Map<number, number>()
  readonly #kept = new Map<number, EncodedPacket>()
  #packets: AsyncIterator<EncodedPacket> | null = null
  #read = 0

  /** @param frames that it will be asked for, in their order */
  constructor(path: string, frames: readonly ShownFrame[]) {
    this.#path = path
    this.#input = new Input({ source: new FilePathSource(path), formats: ALL_FORMATS })
    for (const [i, { encoded }] of frames.entries()) this.#lastUse.set(encoded, i)
  }

  async open(): Promise<VideoDecoderConfig> {
    const track = await this.#input.getPrimaryVideoTrack()
    const config = await track?.getDecoderConfig()
    if (!track || !config) throw new Error(`Nothing to join in segment ${this.#path}`)
    this.#packets = new EncodedPacketSink(track).packets()[Symbol.asyncIterator]()
    return config
  }

  /** @param index of the asking frame @param encoded which packet it shows */
  async packet(index: number, encoded: number): Promise<EncodedPacket> {
    while (this.#read <= encoded) {
      const { value, done } = await this.#packets!.next()
      if (done) throw new Error(`Segment ${this.#path} holds ${this.#read} frames; one more is wanted`)
      if ((this.#lastUse.get(this.#read) ?? -1) >= index) this.#kept.set(this.#read, value)
      this.#read++
    }
    const packet = this.#kept.get(encoded)
    if (!packet) throw new Error(`Frame ${encoded} of segment ${this.#path} is asked for once too often`)
    if (this.#lastUse.get(encoded) === index) this.#kept.delete(encoded)
    return packet
  }

  close() {
    this.#input.dispose()
  }
}

/** A slide's frames with their moments in samples of the lecture, and where the last of them ends. */
export function frameTimes(
  slide: Omit<MuxSlide, 'video'>,
  form: Pick<VideoForm, 'rate'>,
  last: boolean,
): { frames: ShownFrame[]; end: number } {
  const end = slide.startSamples + slide.lengthSamples
  const { shown } = slideFrames(slide, form.rate)
  if (form.rate === null) return { frames: shown.map(({ at, encoded }) => ({ at: slide.startSamples + at, encoded })), end }
  // the lecture's own grid: each slide begins with the frame nearest to its start
  const step = gridSamples(form.rate)
  const first = Math.round(slide.startSamples / step)
  const next = Math.max(first + 1, Math.round(end / step))
  const frames = shown.slice(0, next - first).map(({ encoded }, i) => ({ at: (first + i) * step, encoded }))
  return { frames, end: last ? end : next * step }
}

/** Numbers frames in a row from each key frame on, so that a repeat can stand there many times. */
function numbering(config: VideoDecoderConfig): (packet: EncodedPacket) => EncodedPacket {
  if (!config.codec.startsWith('avc')) return (packet) => packet
  const bits = frameNumberBits(new Uint8Array(config.description as ArrayBuffer))
  let number = 0
  return (packet) => {
    number = isKeyPacket(packet.data) ? 0 : number + 1
    return packet.clone({ data: withFrameNumber(packet.data, bits, number) })
  }
}

/**
 * @param slides in order, starts being running totals of lengths
 * @param out path of the file to write, with a video track alone
 * @throws Error when a segment holds fewer frames than its slide shows
 */
export async function muxPictures(
  slides: readonly MuxSlide[],
  form: Pick<VideoForm, 'container' | 'rate'>,
  out: string,
  signal: AbortSignal,
) {
  const format = form.container === 'webm' ? new WebMOutputFormat() : new Mp4OutputFormat({ fastStart: false })
  const output = new Output({ format, target: new FilePathTarget(out) })
  const video = new EncodedVideoPacketSource(form.container === 'webm' ? 'vp9' : 'avc')
  output.addVideoTrack(video)
  await output.start()
  try {
    let first: VideoDecoderConfig | null = null
    for (const [s, slide] of slides.entries()) {
      signal.throwIfAborted()
      const { frames, end } = frameTimes(slide, form, s === slides.length - 1)
      const segment = new SegmentReader(slide.video, frames)
      try {
        const decoderConfig = await segment.open()
        first ??= decoderConfig
        if (!isSameStream(first, decoderConfig)) throw new Error(`Segment ${slide.video} is coded otherwise than the first`)
        const numbered = numbering(decoderConfig)
        for (const [i, { at, encoded }] of frames.entries()) {
          const packet = await segment.packet(i, encoded)
          const timing = { timestamp: toSeconds(at), duration: toSeconds((frames[i + 1]?.at ?? end) - at) }
          await video.add(numbered(packet).clone(timing), { decoderConfig })
        }
      } finally {
        segment.close()
      }
    }
    await output.finalize()
  } catch (error) {
    await output.cancel()
    throw error
  }
}
