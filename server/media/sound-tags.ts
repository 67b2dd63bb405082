/** What is written into the file of a recording, so that it can be found again by itself: which slide of which lecture, and when. */
import { and, eq, lte } from 'drizzle-orm'
import type { Tables } from '#server/db/database.ts'
import { lectures, slides, takes } from '#server/db/schema.ts'
import { isShownSlide } from '#server/db/shown.ts'
import type { SoundTags } from './sound-files.ts'

/** Names of our own beside those that everybody has. */
export const TAG = {
  take: 'LECTERN_TAKE',
  slide: 'LECTERN_SLIDE',
  lecture: 'LECTERN_LECTURE',
  recording: 'LECTERN_RECORDING',
} as const

/** A tag is one line. */
const line = (text: string) => text.replace(/\s+/g, ' ').trim().slice(0, 500)

async function tagsOfSlide(db: Tables, slideId: string): Promise<SoundTags> {
  const [row] = await db
    .select()
    .from(slides)
    .innerJoin(lectures, eq(lectures.id, slides.lectureId))
    .where(eq(slides.id, slideId))
  if (!row) return {}
  const { lectureId, position } = row.slides
  const before = and(eq(slides.lectureId, lectureId), isShownSlide, lte(slides.position, position))
  return {
    TITLE: line(row.slides.title),
    ALBUM: line(row.lectures.title),
    TRACKNUMBER: String(await db.$count(slides, before)),
    [TAG.slide]: slideId,
    [TAG.lecture]: lectureId,
  }
}

/** @param take what is known of it; its row may not be there yet */
export async function tagsOfTake(
  db: Tables,
  take: { id: string; slideId: string; startedAt: number; microphone: string },
): Promise<SoundTags> {
  return {
    ...(await tagsOfSlide(db, take.slideId)),
    DATE: new Date(take.startedAt).toISOString(),
    DESCRIPTION: line(take.microphone),
    [TAG.take]: take.id,
  }
}

/**
 * A part of a longer recording. It says nothing of the take that it becomes: divided again, a part that is the same is the same file, and is not
 * listened to and cleaned once more.
 *
 * @param recordedAt milliseconds since 1970; null where it is not known
 */
export async function tagsOfPart(db: Tables, slideId: string, microphone: string, recordedAt: number | null): Promise<SoundTags> {
  return {
    ...(await tagsOfSlide(db, slideId)),
    ...(recordedAt === null ? {} : { DATE: new Date(recordedAt).toISOString() }),
    DESCRIPTION: line(microphone),
    [TAG.recording]: 'part',
  }
}

/** The same for a take that is being recorded; nothing for one that is not known. */
export async function tagsOfTakeById(db: Tables, id: string): Promise<SoundTags> {
  const [take] = await db.select().from(takes).where(eq(takes.id, id))
  return take ? tagsOfTake(db, take) : {}
}

/** A sound that came as a file: the same on every slide, so that what is the same is listened to, cleaned and kept once. */
export const tagsOfFile = (name: string): SoundTags => ({ TITLE: line(name), [TAG.recording]: 'file' })

export async function tagsOfRecording(db: Tables, lectureId: string, name: string): Promise<SoundTags> {
  const [lecture] = await db.select().from(lectures).where(eq(lectures.id, lectureId))
  return {
    TITLE: line(name),
    ALBUM: line(lecture?.title ?? ''),
    DATE: new Date().toISOString(),
    [TAG.lecture]: lectureId,
    [TAG.recording]: 'long',
  }
}
