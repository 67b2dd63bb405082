/** Frames of a video, as a player shows them. */
import { execFileSync, spawnSync } from 'node:child_process'

/** What is on the screen at moments, seconds, and not the next frame that begins: all of them in one reading of the file, as RGB. */
export function framesOf(path: string, moments: readonly number[]) {
  const numbers = moments.map((moment) => Math.ceil((moment - 0.03) * 20))
  const wanted = numbers.map((number) => `eq(n\\,${number})`).join('+')
  const shown = `fps=20:start_time=0,select=${wanted},scale=in_color_matrix=bt709:in_range=tv,format=rgb24`
  const size = spawnSync('ffprobe', [
    '-v',
    'error',
    '-select_streams',
    'v',
    '-show_entries',
    'stream=width,height',
    '-of',
    'csv=p=0',
    path,
  ])
  const [width, height] = size.stdout.toString().trim().split(',').map(Number) as [number, number]
  const raw = execFileSync(
    'ffmpeg',
    ['-v', 'error', '-i', path, '-vf', shown, '-fps_mode', 'passthrough', '-f', 'rawvideo', '-'],
    {
      maxBuffer: 2 ** 30,
    },
  )
  const bytes = 3 * width * height
  if (raw.length !== moments.length * bytes)
    throw new Error(`${raw.length} bytes are not ${moments.length} frames of ${width} × ${height}`)
  const info = { width, height, channels: 3 }
  return moments.map((_, i) => ({ data: raw.subarray(i * bytes, (i + 1) * bytes), info }))
}
