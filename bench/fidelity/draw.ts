/** Decks as the import process draws them. */
import sharp from 'sharp'
import type { Deck } from '#core/deck/deck.ts'
import { Warnings } from '#core/deck/warnings.ts'
import type { Message } from '#core/words/say.ts'
import { paintDrawing, picturesOf } from '#server/import/paint-deck.ts'
import { readDeckFile } from '#server/import/read-deck.ts'

export interface DrawnDeck {
  name: string
  width: number
  height: number
  deck: Deck
  /** PNG files of each slide: at first and after each click. */
  slides: { pictures: Uint8Array[]; missing: string[]; warnings: Message[] }[]
}

const toPng = ({ rgba, width, height }: { rgba: Uint8Array; width: number; height: number }) =>
  sharp(rgba, { raw: { width, height, channels: 4 } })
    .png({ compressionLevel: 1 })
    .toBuffer()

/** @param most slides that are painted */
export async function drawDeck(path: string, name: string, most = Number.POSITIVE_INFINITY): Promise<DrawnDeck> {
  const read = await readDeckFile(path, name)
  try {
    const pictureOf = picturesOf(read.part)
    const slides: DrawnDeck['slides'] = []
    for (const slide of read.slides.slice(0, most)) {
      const told = new Warnings()
      for (const warning of slide.warnings) told.add(warning)
      const painted = []
      for (const drawing of [slide.drawing, ...slide.steps.map((step) => step.drawing)])
        painted.push(await paintDrawing(drawing, pictureOf))
      slides.push({
        pictures: await Promise.all(painted.map(toPng)),
        missing: [...new Set(painted.flatMap(({ missing }) => missing))],
        warnings: told.list(),
      })
    }
    const { width, height } = read.slides[0]!.drawing
    return { name, width, height, deck: read, slides }
  } finally {
    read.close()
  }
}
