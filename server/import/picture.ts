/** Pictures of slides: bounded, turned upright, kept as PNG with a small WebP for lists. */

import sharp from 'sharp'
import type { SmallPicture } from '#core/deck/match/builds.ts'
import { message } from '#core/words/say.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import type { FileStore } from '#server/storage/file-store.ts'
import { MOST_PIXELS, readable } from './kinds/decode.ts'
import { sniff } from './kinds/sniff.ts'

/** Larger pictures are made smaller: nothing the product publishes shows more. */
const LARGEST = { width: 3840, height: 2160 }
const THUMBNAIL_WIDTH = 480

export interface KeptPicture {
  picture: string
  thumbnail: string
  width: number
  height: number
}

type Source = Uint8Array | { rgba: Uint8Array; width: number; height: number }

const SVG_DPI = 72
/** Drawings without pixels of their own are drawn as wide as slides are; nothing they refer to outside is fetched. */
export async function drawnDensity(source: Uint8Array): Promise<{ density?: number }> {
  if (sniff(source) !== 'svg') return {}
  const { width = 1, height = 1 } = await sharp(source, { limitInputPixels: MOST_PIXELS }).metadata()
  return { density: Math.min(2400, Math.max(1, SVG_DPI * Math.min(1920 / width, 1080 / height))) }
}

/** Keeps a picture in the store. @param source a picture file, or raw RGBA samples */
export async function keepPicture(store: FileStore, source: Source): Promise<KeptPicture> {
  const image =
    source instanceof Uint8Array
      ? sharp(source, { limitInputPixels: MOST_PIXELS, pages: 1, ...(await drawnDensity(source)) }).rotate()
      : sharp(source.rgba, { raw: { width: source.width, height: source.height, channels: 4 } })
  const { data, info } = await image
    .resize({ ...LARGEST, fit: 'inside', withoutEnlargement: true })
    .flatten({ background: '#ffffff' })
    .toColourspace('srgb')
    .png({ compressionLevel: 6 })
    .toBuffer({ resolveWithObject: true })
  const small = await sharp(data).resize({ width: THUMBNAIL_WIDTH, withoutEnlargement: true }).webp({ quality: 82 }).toBuffer()
  return { picture: await store.put(data), thumbnail: await store.put(small), width: info.width, height: info.height }
}

/** Like `keepPicture`, for a file that somebody gave us: what is wrong with it is said by its name. */
export async function keepGivenPicture(store: FileStore, name: string, given: Uint8Array): Promise<KeptPicture> {
  try {
    const bytes = await readable(given)
    // the header alone is read here, so that a picture of a billion pixels is never opened
    const { width, height } = await sharp(bytes, { limitInputPixels: false }).metadata()
    if (width * height > MOST_PIXELS) {
      throw new UserFacingError(
        message('“{name}” is {width} × {height} pixels; the most is {most} million pixels. Make it smaller and add it again.', {
          name,
          width,
          height,
          most: MOST_PIXELS / 1e6,
        }),
        413,
      )
    }
    return await keepPicture(store, bytes)
  } catch (error) {
    if (error instanceof UserFacingError || (error as { code?: string }).code === 'ENOSPC') throw error
    throw new UserFacingError(
      message('“{name}” looks like a picture but cannot be read; it may be damaged. Save it again and add it once more.', {
        name,
      }),
      422,
    )
  }
}

const SMALL = { width: 320, height: 180 }

/** A page in few pixels, for telling pages apart. */
export async function smallPicture(source: { rgba: Uint8Array; width: number; height: number }): Promise<SmallPicture> {
  const { data, info } = await sharp(source.rgba, { raw: { width: source.width, height: source.height, channels: 4 } })
    .removeAlpha()
    .resize({ ...SMALL, fit: 'fill', kernel: 'linear' })
    .raw()
    .toBuffer({ resolveWithObject: true })
  return { rgb: data, width: info.width, height: info.height }
}
