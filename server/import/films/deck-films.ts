/** The films of a deck's slides: their files out of the deck, and pictures that move by themselves. */
import sharp from 'sharp'
import type { DeckFilm, Drawing } from '#core/deck/deck.ts'
import type { NewDeckFilm } from '#core/deck/match/replace.ts'
import { WARN, type Warnings } from '#core/deck/warnings.ts'
import type { FileStore } from '#server/storage/file-store.ts'

const nameOf = (part: string) => part.split('/').at(-1)!

/** Where it stands, as shares of the slide. */
const placeOf = ({ x, y, width, height }: DeckFilm['box'], drawing: Pick<Drawing, 'width' | 'height'>) => ({
  x: x / drawing.width,
  y: y / drawing.height,
  width: width / drawing.width,
  height: height / drawing.height,
})

/** What a deck's files are read by. */
interface DeckFiles {
  part(name: string): Promise<Uint8Array | null>
  film(name: string): Promise<AsyncIterable<Uint8Array> | null>
}

/** Files of films, each kept once however often it is shown. */
export function filmsOf(store: FileStore, read: DeckFiles) {
  const kept = new Map<string, Promise<string | null>>()
  const keep = (part: string) => {
    const known = kept.get(part)
    if (known) return known
    const file = read.film(part).then(async (stream) => (stream ? (await store.receive(stream)).name : null))
    kept.set(part, file)
    return file
  }
  const animated = new Map<string, Promise<boolean>>()
  const moves = (part: string) => {
    const known = animated.get(part)
    if (known) return known
    const answer = read.part(part).then(async (bytes) => {
      if (!bytes) return false
      const { pages = 1 } = await sharp(bytes, { pages: -1, limitInputPixels: false }).metadata()
      return pages > 1
    })
    const sure = answer.catch(() => false)
    animated.set(part, sure)
    return sure
  }

  /** @param films of a picture of a slide */
  async function ofDeck(films: readonly DeckFilm[], drawing: Pick<Drawing, 'width' | 'height'>): Promise<NewDeckFilm[]> {
    const found: NewDeckFilm[] = []
    for (const { part, box, hasPoster, settings, endTrimSeconds } of films) {
      const file = await keep(part)
      if (file === null) continue
      const place = placeOf(box, drawing)
      const own = { ...settings, place, ...(endTrimSeconds > 0 ? { endTrimSeconds } : {}) }
      found.push({ name: nameOf(part), file, hasPoster, settings: own })
    }
    return found
  }

  /** Pictures of a drawing that move by themselves, again and again. @param seen those of earlier pictures of the slide, which go on */
  async function moving(drawing: Drawing, seen: Set<string>, warnings: Warnings): Promise<NewDeckFilm[]> {
    const found: NewDeckFilm[] = []
    for (const item of drawing.items) {
      if (item.kind !== 'picture' || !/\.(gif|webp)$/i.test(item.part)) continue
      const key = `${item.part} ${JSON.stringify(item.box)}`
      if (seen.has(key) || !(await moves(item.part))) continue
      seen.add(key)
      const { box, crop } = item
      // one that is turned or cut stands still: a film is shown whole and upright
      if (box.rotation !== 0 || box.flipX || box.flipY || Object.values(crop).some((side) => side !== 0)) {
        warnings.add(WARN.firstPictureOnly)
        continue
      }
      const file = await keep(item.part)
      if (file === null) continue
      const settings = { place: placeOf(box, drawing), loops: true, waits: false }
      found.push({ name: nameOf(item.part), file, hasPoster: true, settings })
    }
    return found
  }
  return { ofDeck, moving }
}
