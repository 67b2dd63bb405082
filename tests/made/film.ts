/** Films that say which of their frames is which: the number of each stands in it as twelve bright and dark bars. */
import { spawnSync } from 'node:child_process'
import { closeSync, openSync, rmSync, writeSync } from 'node:fs'

const BARS = 12

export interface MadeFilm {
  frames: number
  /** Frames a second, as the media tool reads it. */
  rate?: string
  width?: number
  height?: number
  /** Loudness of a tone that sounds for a tenth of a second each second, from its first frame on; null for none. */
  tone?: number | null
  /** Arguments of its encoder and container. */
  codec?: string[]
}

/** @returns samples of the frame with this number, three bytes a pixel */
function numbered(number: number, width: number, height: number): Buffer {
  const row = Buffer.alloc(width * 3)
  for (let x = 0; x < width; x++) row.fill((number >> Math.floor((x * BARS) / width)) & 1 ? 235 : 20, x * 3, x * 3 + 3)
  return Buffer.concat(Array.from({ length: height }, () => row))
}

const SECONDS = /^(\d+)(?:\/(\d+))?$/

/** Writes a film to a path. */
export function makeFilm(
  path: string,
  {
    frames,
    rate = '25',
    width = 480,
    height = 270,
    tone = null,
    codec = ['-c:v', 'libx264', '-preset', 'ultrafast', '-f', 'mp4'],
  }: MadeFilm,
) {
  const [, count = '25', per = '1'] = SECONDS.exec(rate) ?? []
  const seconds = (frames * Number(per)) / Number(count)
  const sound = `aevalsrc=exprs=${tone ?? 0}*sin(2*PI*1000*t)*lt(mod(t\\,1)\\,0.1):s=48000:d=${seconds}`
  // long films are too large to be held: they are written down on the way
  const raw = `${path}.rgb`
  const file = openSync(raw, 'w')
  for (let i = 0; i < frames; i++) writeSync(file, numbered(i, width, height))
  closeSync(file)
  const { status, stderr } = spawnSync('ffmpeg', [
    ...['-v', 'error', '-y', '-f', 'rawvideo', '-pix_fmt', 'rgb24', '-s', `${width}x${height}`, '-r', rate, '-i', raw],
    ...(tone === null ? [] : ['-f', 'lavfi', '-i', sound]),
    ...['-pix_fmt', 'yuv420p', ...codec, path],
  ])
  rmSync(raw)
  if (status !== 0) throw new Error(stderr.toString())
}

/**
 * @param place of the film in the picture, pixels
 * @returns the number that stands there; null where there is none
 */
export function numberIn(
  { data, info: { width } }: { data: Uint8Array; info: { width: number } },
  place: { x: number; y: number; width: number; height: number },
): number | null {
  let number = 0
  for (let bar = 0; bar < BARS; bar++) {
    const x = Math.round(place.x + ((bar + 0.5) * place.width) / BARS)
    const y = Math.round(place.y + place.height / 2)
    const value = data[(y * width + x) * 3 + 1]!
    if (value > 90 && value < 165) return null
    if (value >= 165) number |= 1 << bar
  }
  return number
}
