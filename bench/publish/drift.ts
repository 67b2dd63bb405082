/** How far the picture of a slide is from its sound, in a finished video. */
import { execFileSync } from 'node:child_process'
import { ALL_FORMATS, EncodedPacketSink, FilePathSource, Input } from 'mediabunny'
import { toSeconds } from '#core/timing/clocks.ts'
import type { ScheduledSlide } from '#core/timing/scheduled.ts'

/**
 * @param path of a video whose slides each say a click, 4800 samples into the clip
 * @param last slide of it, and its place: each begins with a key picture and has no other
 * @returns milliseconds between its click, where it is due, and its first picture
 */
export async function driftOf(path: string, last: ScheduledSlide, place: number): Promise<number> {
  const input = new Input({ source: new FilePathSource(path), formats: ALL_FORMATS })
  const shown: number[] = []
  for await (const packet of new EncodedPacketSink((await input.getPrimaryVideoTrack())!).packets())
    if (packet.type === 'key') shown.push(packet.timestamp)
  input.dispose()
  const pcm = execFileSync('ffmpeg', ['-v', 'error', '-i', path, '-map', '0:a', '-ac', '1', '-f', 'f32le', '-'], {
    maxBuffer: 1 << 30,
  })
  const samples = new Float32Array(pcm.buffer.slice(pcm.byteOffset, pcm.byteOffset + (pcm.length & ~3)))
  const from = last.startSamples
  let [most, at] = [0, 0]
  for (let i = from; i < Math.min(samples.length, from + last.lengthSamples); i++) {
    if (Math.abs(samples[i]!) <= most) continue
    most = Math.abs(samples[i]!)
    at = i
  }
  // the click is ten samples wide and stands 4800 samples into the clip
  const heard = toSeconds(at - last.leadSamples - 4805)
  return Math.abs(heard - shown[place]!) * 1000
}
