/** The pictures of a slide as they stand in the video: with the teacher's crest in a corner and captions drawn in, where wanted. */
import { writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import sharp, { type OverlayOptions } from 'sharp'
import type { PictureSpan } from '#core/edition/plan.ts'
import type { Crest } from '#core/model/export-settings.ts'
import type { Lend } from '#server/storage/file-store.ts'
import { drawCaption } from './draw-caption.ts'

interface Size {
  width: number
  height: number
}

/** Distance from the edge, as a share of the height. */
export const MARGIN = { crest: 0.03, caption: 0.045 }
/** A band where captions would stand, as a share of the height. */
const BAND = 0.2
/** Grey levels: what a band spreads by when there is text or a drawing in it. */
const BUSY = 12

/** @returns the picture in its frame, bars black, as raw RGB */
export async function framed(path: string, { width, height }: Size): Promise<Buffer> {
  return sharp(path)
    .flatten({ background: 'white' })
    .resize(width, height, { fit: 'contain', background: 'black' })
    .removeAlpha()
    .raw()
    .toBuffer()
}

export async function crestLayer(lend: Lend, crest: Crest, { width, height }: Size): Promise<OverlayOptions> {
  const margin = Math.round(height * MARGIN.crest)
  const small = await sharp(await lend(crest.picture))
    .resize({ width: Math.round(width * crest.share), height: Math.round(height * 0.3), fit: 'inside' })
    .toColourspace('srgb')
    .ensureAlpha()
    .raw()
    .toBuffer({ resolveWithObject: true })
  // a step of its own: in one pipeline the opacity would be set before grey pictures have their colours and all an alpha
  const { data, info } = await sharp(small.data, { raw: small.info })
    .linear([1, 1, 1, crest.opacity], [0, 0, 0, 0])
    .png()
    .toBuffer({ resolveWithObject: true })
  return {
    input: data,
    left: crest.corner.endsWith('left') ? margin : width - margin - info.width,
    top: crest.corner.startsWith('top') ? margin : height - margin - info.height,
  }
}

/** How much there is to see in a band of a picture: the spread of its grey levels. */
async function busyness(raw: Buffer, { width, height }: Size, top: number): Promise<number> {
  const band = { left: Math.round(width * 0.1), top, width: Math.round(width * 0.8), height: Math.round(height * BAND) }
  const cut = await sharp(raw, { raw: { width, height, channels: 3 } })
    .extract(band)
    .greyscale()
    .raw()
    .toBuffer({ resolveWithObject: true })
  const { channels } = await sharp(cut.data, { raw: cut.info }).stats()
  return channels[0]!.stdev
}

/** Captions stand at the bottom unless something is shown there and the top is free. */
export async function captionsAtTop(raw: Buffer, size: Size): Promise<boolean> {
  if ((await busyness(raw, size, size.height - Math.round(size.height * BAND))) < BUSY) return false
  return (await busyness(raw, size, 0)) < BUSY
}

/**
 * @param from picture that the slide's transition begins with; it stands first in the answer
 * @param folder for the drawn files; it is the caller's to remove
 * @returns paths of PNG files; the stored ones themselves where nothing is drawn into them
 */
export async function finishedPictures(
  lend: Lend,
  pictures: readonly PictureSpan[],
  from: string | null,
  crest: Crest | null,
  size: Size,
  folder: string,
): Promise<string[]> {
  const wanted: Pick<PictureSpan, 'picture' | 'caption'>[] = [...(from === null ? [] : [{ picture: from }]), ...pictures]
  if (crest === null && wanted.every((span) => span.caption === undefined))
    return Promise.all(wanted.map((span) => lend(span.picture)))
  const layer = crest && (await crestLayer(lend, crest, size))
  const bases = new Map<string, { raw: Buffer; top: boolean }>()
  const paths: string[] = []
  for (const [i, { picture, caption }] of wanted.entries()) {
    let base = bases.get(picture)
    if (!base) {
      const raw = await framed(await lend(picture), size)
      base = { raw, top: await captionsAtTop(raw, size) }
      bases.set(picture, base)
    }
    const layers = layer ? [layer] : []
    if (caption !== undefined) {
      const drawn = drawCaption(caption, size.width, size.height)
      const margin = Math.round(size.height * MARGIN.caption)
      const left = Math.round((size.width - drawn.width) / 2)
      layers.push({ input: drawn.png, left, top: base.top ? margin : size.height - margin - drawn.height })
    }
    const path = join(folder, `picture-${i}.png`)
    const image = sharp(base.raw, { raw: { ...size, channels: 3 } }).composite(layers)
    await writeFile(path, await image.removeAlpha().png({ compressionLevel: 1 }).toBuffer())
    paths.push(path)
  }
  return paths
}
