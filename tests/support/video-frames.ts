/** Every frame of a video with its moment, by the media tool. */
import { execFileSync } from 'node:child_process'

/** When each frame is shown, seconds, in order. */
export const momentsOf = (video: string): number[] =>
  execFileSync('ffprobe', [
    ...['-v', 'error', '-select_streams', 'v', '-show_entries', 'packet=pts_time', '-of', 'csv=p=0', video],
  ])
    .toString()
    .trim()
    .split('\n')
    .map(Number.parseFloat)
    .sort((a, b) => a - b)

/** All frames in one size, as RGB. */
export function allFrames(video: string, width: number, height: number) {
  const moments = momentsOf(video)
  const shown = `scale=${width}:${height},format=rgb24`
  // a player of raw pictures knows no moments: that two frames come too near each other for it is no fault
  const args = ['-v', 'fatal', '-i', video, '-vf', shown, '-fps_mode', 'passthrough', '-f', 'rawvideo', '-']
  const raw = execFileSync('ffmpeg', args, { maxBuffer: 2 ** 31 })
  const bytes = width * height * 3
  if (raw.length !== bytes * moments.length) throw new Error(`${raw.length / bytes} frames were read of ${moments.length}`)
  return moments.map((at, i) => ({ at, data: raw.subarray(i * bytes, (i + 1) * bytes), info: { width } }))
}
