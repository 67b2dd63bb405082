/** What is to be seen in a film: pictures of it for the time scale, and whether it flashes. */
import sharp from 'sharp'
import { FlashFinder, LOOK } from '#core/films/flashes.ts'
import type { Ffmpeg } from '#server/media/ffmpeg.ts'
import type { FileStore } from '#server/storage/file-store.ts'

const STRIP_HEIGHT = 72
/** A strip is one picture of a bounded width. */
const MOST_PICTURES = 60
const WIDEST = 16_000

const ours = (path: string) => ['-protocol_whitelist', 'file', '-f', 'mov', '-i', path]

/** @returns name of the strip, a WebP, and how many pictures it has, equally far apart */
export async function stripOf(
  { media, store }: { media: Ffmpeg; store: FileStore },
  path: string,
  film: { frames: number; seconds: number; width: number; height: number },
  signal: AbortSignal,
): Promise<{ strip: string; pictures: number }> {
  const width = Math.max(2, 2 * Math.round((STRIP_HEIGHT * film.width) / film.height / 2))
  const most = Math.max(1, Math.min(MOST_PICTURES, Math.ceil(film.seconds), Math.floor(WIDEST / width)))
  const every = Math.ceil(film.frames / most)
  const pictures = Math.ceil(film.frames / every)
  const png = await media.run(
    [
      ...ours(path),
      ...['-vf', `select=not(mod(n\\,${every})),scale=${width}:${STRIP_HEIGHT},tile=${pictures}x1`, '-fps_mode', 'passthrough'],
      ...['-frames:v', '1', '-c:v', 'png', '-f', 'image2pipe', 'pipe:1'],
    ],
    { signal, timeoutSeconds: 3600 },
  )
  return { strip: await store.put(await sharp(png).webp({ quality: 75 }).toBuffer()), pictures }
}

/** @param rate frames a second @returns seconds of the film in which it flashes too often */
export async function flashesOf(media: Ffmpeg, path: string, rate: number, signal: AbortSignal) {
  const finder = new FlashFinder(rate)
  const bytes = LOOK.width * LOOK.height * 3
  let rest: Buffer = Buffer.alloc(0)
  const onOutput = (piece: Buffer) => {
    rest = rest.length > 0 ? Buffer.concat([rest, piece]) : piece
    let at = 0
    for (; at + bytes <= rest.length; at += bytes) finder.add(rest.subarray(at, at + bytes))
    rest = rest.subarray(at)
  }
  await media.run(
    [
      ...ours(path),
      ...[
        '-vf',
        `scale=${LOOK.width}:${LOOK.height}:flags=area,format=rgb24`,
        '-fps_mode',
        'passthrough',
        '-f',
        'rawvideo',
        'pipe:1',
      ],
    ],
    { onOutput, signal, timeoutSeconds: 3600 },
  )
  return finder.stretches()
}
