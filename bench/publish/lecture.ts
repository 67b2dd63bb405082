/** Lectures in which no slide is like another, so that no part serves twice: pictures of text with a number that a machine can read. */
import { randomUUID } from 'node:crypto'
import { join } from 'node:path'
import { createCanvas } from '@napi-rs/canvas'
import { eq } from 'drizzle-orm'
import { blockPowers } from '#core/audio/loudness/loudness.ts'
import { fromInt16 } from '#core/audio/signal/pcm.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { TidyUp } from '#core/model/tidy-up.ts'
import { toSamples } from '#core/timing/clocks.ts'
import { DEMO_SLIDES } from '#demo/lecture.ts'
import type { AppContext } from '#server/context/context.ts'
import { clips, slides, takes, tidyUps } from '#server/db/schema.ts'
import { createLecture } from '#server/domain/lectures/create.ts'
import { clipKey, readLecture } from '#server/domain/lectures/read.ts'
import { keepPicture } from '#server/import/picture.ts'
import { pieceOf } from '#server/media/pcm.ts'
import { bytesOf, decodeFlac, encodeFlac } from '#server/media/sound-files.ts'
import { canvasFont, fontFor } from '#server/text/fonts.ts'
import { random } from '#tests/made/sound.ts'

const reading = (size: number, weight: number) =>
  canvasFont(fontFor('a', 'reading', 'ja'), { size, weight, italic: false, face: 'reading' })

const FILES = join(import.meta.dirname, '../../demo/files')
const TAKES = ['take-1a.flac', 'take-2b.flac', 'take-3a.flac', 'take-4a.flac', 'take-5a.flac', 'take-7a.flac']
/** A strip of blocks at the picture's foot: the slide's number in binary, so that a seek can be judged by a few pixels. */
export const CODE = { bits: 10, left: 400, top: 1040, size: 40 }

/** A slide of text as teachers have them: a heading, points, a small table. 1920 × 1080. */
export function drawSlide(n: number): Uint8Array {
  const next = random(1000 + n)
  const words = DEMO_SLIDES.flatMap((s) => s.script.split(/\s+/))
  const some = (count: number) => Array.from({ length: count }, () => words[Math.floor(next() * words.length)]!).join(' ')
  const canvas = createCanvas(1920, 1080)
  const c = canvas.getContext('2d')
  c.fillStyle = '#fbfaf6'
  c.fillRect(0, 0, 1920, 1080)
  c.fillStyle = '#17594a'
  c.fillRect(0, 0, 1920, 14)
  c.fillStyle = '#1d2a2e'
  c.font = reading(72, 600)
  c.fillText(`${n + 1}. ${some(4)}`, 120, 150)
  c.font = reading(44, 400)
  for (let line = 0; line < 6; line++) c.fillText(`•  ${some(8)}`, 140, 280 + line * 78)
  c.font = reading(32, 400)
  for (let row = 0; row < 4; row++) {
    c.strokeStyle = '#b9b2a2'
    c.strokeRect(140, 760 + row * 62, 1500, 62)
    for (let column = 0; column < 5; column++) c.fillText((next() * 100).toFixed(1), 170 + column * 300, 803 + row * 62)
  }
  for (let bit = 0; bit < CODE.bits; bit++) {
    c.fillStyle = (n >> bit) & 1 ? '#000000' : '#ffffff'
    c.fillRect(CODE.left + bit * CODE.size, CODE.top, CODE.size, CODE.size)
  }
  return canvas.toBuffer('image/png')
}

/** A voice at the published loudness, about eighty seconds. */
async function voice(context: AppContext): Promise<Int16Array> {
  const pieces: Int16Array[] = []
  for (const name of TAKES) {
    const samples = await decodeFlac(context.media, join(FILES, name))
    const tidied = await context.workers.tidy(
      { samples, analysis: null, tidyUp: null, marks: [], spillFolder: null },
      new AbortController().signal,
    )
    pieces.push(pieceOf(tidied.clip, 0, tidied.clip.length))
  }
  const all = new Int16Array(pieces.reduce((sum, piece) => sum + piece.length, 0))
  let at = 0
  for (const piece of pieces) {
    all.set(piece, at)
    at += piece.length
  }
  return all
}

/** A take that is its own clip, on a slide. */
export async function keepClip(context: AppContext, slideId: string, pcm: Int16Array, number = 1) {
  const recipe = TidyUp.parse({ kept: { start: 0, end: pcm.length }, cleaning: 0, level: null, highPassHz: null })
  const sound = await encodeFlac(context.media, context.store, pcm)
  const peaks = await context.store.put(bytesOf(new Int16Array(2)))
  const takeId = randomUUID()
  const analysis = {
    speech: [{ start: 0, end: pcm.length }],
    noiseFloorDb: -75,
    loudnessLufs: -16,
    truePeakDbtp: -2,
    clippedSamples: 0,
    humHz: null,
    trailingUtterance: null,
  }
  await context.db.write(async (tx) => {
    await tx.insert(takes).values({
      id: takeId,
      slideId,
      number,
      state: 'sealed',
      startedAt: Date.now(),
      microphone: 'bench',
      samples: pcm.length,
      sound,
      peaks,
      analysis,
    })
    await tx.insert(tidyUps).values({ takeId, tidyUp: recipe })
    await tx
      .insert(clips)
      .values({
        key: clipKey(sound, recipe),
        takeId,
        samples: pcm.length,
        sound,
        peaks,
        powers: blockPowers([fromInt16(pcm)]).map((power) => Number((2 * power).toPrecision(4))),
        figures: { loudnessLufs: -16, truePeakDbtp: -2, noiseFloorDb: -75, gainDb: 0, gainReductionDb: 0 },
      })
      .onConflictDoNothing()
    await tx.update(slides).set({ keptTakeId: takeId }).where(eq(slides.id, slideId))
  })
}

/** @param sounds of slide n, or null for the bench's own voice of so many seconds */
export async function distinctLecture(
  context: AppContext,
  count: number,
  seconds: number,
  sounds: ((n: number) => Int16Array) | null = null,
  /** Number of the first picture: two lectures with other ones share none. */
  first = 0,
): Promise<Lecture> {
  const id = randomUUID()
  const pages = []
  for (let n = 0; n < count; n++)
    pages.push({
      ...(await keepPicture(context.store, drawSlide(first + n))),
      title: `Slide ${n + 1}`,
      altText: 'A page of text',
    })
  await createLecture(context.db, id, `A lecture of ${count} slides`, 'en', pages)
  const said = sounds ? null : await voice(context)
  const lecture = await readLecture(context.db.read, id)
  for (const [n, slide] of lecture.slides.entries()) {
    const own =
      sounds?.(n) ?? Int16Array.from({ length: toSamples(seconds) }, (_, i) => said![(i + (first + n) * 61_111) % said!.length]!)
    await keepClip(context, slide.id, own)
  }
  return readLecture(context.db.read, id)
}
