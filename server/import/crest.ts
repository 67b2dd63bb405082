/** The teacher's own small picture for a corner of every slide. */

import sharp from 'sharp'
import { message } from '#core/words/say.ts'
import { isDiskFull, UserFacingError } from '#server/errors/user-facing-error.ts'
import { MOST_PIXELS, readable } from './kinds/decode.ts'
import { noPicture } from './kinds/no-picture.ts'
import { isPicture, sniff } from './kinds/sniff.ts'

const LARGEST_PX = 1024

/** @returns a PNG of the picture, with what is see-through in it */
export async function cutCrest(name: string, file: Uint8Array): Promise<Uint8Array> {
  const kind = sniff(file)
  if (!isPicture(kind)) throw new UserFacingError(noPicture(name, kind), 415)
  try {
    return await sharp(await readable(file), { limitInputPixels: MOST_PIXELS, pages: 1 })
      .rotate()
      .resize({ width: LARGEST_PX, height: LARGEST_PX, fit: 'inside', withoutEnlargement: true })
      .toColourspace('srgb')
      .png()
      .toBuffer()
  } catch (error) {
    if (isDiskFull(error)) throw error
    throw new UserFacingError(
      message('“{name}” looks like a picture but cannot be read; it may be damaged. Save it again.', { name }),
      422,
    )
  }
}
