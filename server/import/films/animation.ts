/** Picture files with several pictures (GIF, WebP), each for its time. */
import { open } from 'node:fs/promises'
import sharp from 'sharp'
import { keptSize, LONGEST_FILM_S, tooLong } from '#core/model/moving/film.ts'
import { message } from '#core/words/say.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { MOST_PIXELS } from '../kinds/decode.ts'

export interface Animation {
  /** Path of a file with the samples of all pictures in turn, three bytes a pixel; it is the caller's to remove. */
  frames: string
  width: number
  height: number
  /** Milliseconds that each is shown. */
  delays: number[]
}

/** All of its pictures together lie on the disk for a while. */
const MOST_BYTES = 4 * 1024 ** 3
/** As many as a film of the greatest length has at the quickest that an animation changes. */
const MOST_PICTURES = LONGEST_FILM_S * 50
/** Pictures are read in blocks, each from the beginning of the file on: large blocks of small pictures, small ones of large. */
const BLOCK_BYTES = 64 * 1024 ** 2
const BLOCK_LINES = 1_000_000
/** Common practice, no published source: what asks for less than this is shown for a tenth of a second. */
const SHORTEST_MS = 20
const USUAL_MS = 100

/** @param told after some pictures each @throws UserFacingError for one that is damaged, does not move or is too large */
export async function readAnimation(path: string, name: string, out: string, told: () => void): Promise<Animation> {
  const damaged = () =>
    new UserFacingError(message('“{name}” cannot be read; it may be damaged. Save it again and add it once more.', { name }), 422)
  const found = await sharp(path, { limitInputPixels: false, pages: -1 })
    .metadata()
    .catch(() => null)
  if (!found) throw damaged()
  const { width, pages = 1, height: all, pageHeight: height = all, delay = [] } = found
  if (pages < 2)
    throw new UserFacingError(
      message('“{name}” holds one picture and nothing that moves. Add it as a picture instead.', { name }),
      415,
    )
  if (width * height > MOST_PIXELS || width * height * 3 * pages > MOST_BYTES || pages > MOST_PICTURES)
    throw new UserFacingError(
      message('“{name}” has {pages} pictures of {width} × {height} pixels, more than can be read here. Make it smaller.', {
        name,
        pages,
        width,
        height,
      }),
      413,
    )
  const delays = Array.from({ length: pages }, (_, i) => ((delay[i] ?? 0) < SHORTEST_MS ? USUAL_MS : delay[i]!))
  if (delays.reduce((sum, one) => sum + one, 0) > LONGEST_FILM_S * 1000) throw new UserFacingError(tooLong(name), 413)
  const size = keptSize({ width, height })
  const atOnce = Math.max(1, Math.floor(Math.min(BLOCK_BYTES / (width * height * 4), BLOCK_LINES / height)))
  const file = await open(out, 'wx')
  try {
    for (let page = 0; page < pages; page += atOnce) {
      const count = Math.min(atOnce, pages - page)
      const raw = await sharp(path, { limitInputPixels: false, page, pages: count })
        .resize({ ...size, fit: 'fill' })
        .flatten({ background: '#ffffff' })
        .toColourspace('srgb')
        .removeAlpha()
        .raw()
        .toBuffer()
        .catch(() => {
          throw damaged()
        })
      await file.writeFile(raw)
      told()
    }
  } finally {
    await file.close()
  }
  return { frames: out, ...size, delays }
}
