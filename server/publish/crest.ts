/** The teacher's own small picture for a corner of every slide. */
import sharp from 'sharp'
import { isPicture, sniff } from '#server/import/sniff.ts'
import { Sentence } from '#server/sentence.ts'
import type { FileStore } from '#server/store/file-store.ts'

const LARGEST_PX = 1024
const MOST_PIXELS = 50_000_000

/** Keeps a picture with what is see-through in it. @returns its content name */
export async function giveCrest(store: FileStore, name: string, file: Uint8Array): Promise<string> {
  if (!isPicture(sniff(file))) throw new Sentence(`“${name}” is no picture, whatever its name says. Choose another file.`, 415)
  try {
    const picture = await sharp(file, { limitInputPixels: MOST_PIXELS, pages: 1 })
      .rotate()
      .resize({ width: LARGEST_PX, height: LARGEST_PX, fit: 'inside', withoutEnlargement: true })
      .toColourspace('srgb')
      .png()
      .toBuffer()
    return await store.put(picture)
  } catch (error) {
    if ((error as { code?: string }).code === 'ENOSPC') throw error
    throw new Sentence(`“${name}” looks like a picture but cannot be read; it may be damaged. Save it again.`, 422)
  }
}
