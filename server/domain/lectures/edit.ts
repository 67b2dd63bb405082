/** Changes that a person makes to a lecture. Deleting only marks; every change can be taken back by its opposite. */
import { and, eq, isNotNull } from 'drizzle-orm'
import { z } from 'zod'
import { LINE_CHARACTERS } from '#core/captions/generate/break-lines.ts'
import { Language } from '#core/language-tag.ts'
import { ExportSettings } from '#core/model/export-settings.ts'
import { SmallPicture, SmallPictureException } from '#core/model/moving/small-picture.ts'
import { Questions } from '#core/model/question.ts'
import { Card } from '#core/model/slide.ts'
import type { TidyUp } from '#core/model/tidy-up.ts'
import { TimingDefaults, TimingExceptions, Transition } from '#core/model/timing.ts'
import { clipSamples } from '#core/timing/time-map.ts'
import { MessageSchema } from '#core/words/kept-message.ts'
import { message } from '#core/words/say.ts'
import type { Database, Tables } from '#server/db/database.ts'
import { captionTracks, lectures, slides, takes, tidyUps } from '#server/db/schema.ts'
import { isShownSlide, isShownTake } from '#server/db/shown.ts'
import { remakeAllScriptCues, remakeScriptCues } from '#server/domain/captions/captions.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { cardWarnings } from '#server/import/card.ts'

const LONGEST_SCRIPT = 50_000

export const LectureChange = z.object({
  title: z.string().trim().min(1, message('A lecture needs a title.').id).max(200).optional(),
  timing: TimingDefaults.optional(),
  transition: Transition.optional(),
  language: Language.optional(),
  exportSettings: ExportSettings.optional(),
  smallPicture: SmallPicture.optional(),
  countsWatching: z.boolean().optional(),
  lineCharacters: z.number().int().min(LINE_CHARACTERS.least).max(LINE_CHARACTERS.most).optional(),
  /** The texts that the change was made from: when they are others by now, it is not made. */
  was: z.object({ title: z.string() }).partial().optional(),
})
export const SlideChange = z.object({
  title: z.string().max(300).optional(),
  altText: z.string().max(2000).optional(),
  /** What a person writes is no draft: false when absent beside a description. */
  isAltTextDraft: z.boolean().optional(),
  script: z.string().max(LONGEST_SCRIPT, message('A script holds 50,000 characters at most; divide the slide.').id).optional(),
  /** Of the script; null: the lecture's. */
  language: Language.nullable().optional(),
  hidden: z.boolean().optional(),
  keptTakeId: z.string().nullable().optional(),
  timing: TimingExceptions.optional(),
  transition: Transition.nullable().optional(),
  smallPicture: SmallPictureException.nullable().optional(),
  card: Card.nullable().optional(),
  warnings: z.array(MessageSchema).max(50).optional(),
  section: z.string().trim().max(200).optional(),
  questions: Questions.optional(),
  /** As in `LectureChange`. */
  was: z.object({ title: z.string(), altText: z.string(), script: z.string() }).partial().optional(),
})

/**
 * Two windows on one text: who wrote from an older one does not write over the newer one unasked.
 *
 * @throws UserFacingError (409) with the text that stands there now
 */
function refuseOverwriting(
  now: Record<string, unknown>,
  change: Record<string, unknown>,
  was: Record<string, string | undefined> | undefined,
) {
  for (const [field, before] of Object.entries(was ?? {}))
    if (before !== undefined && change[field] !== undefined && now[field] !== before && now[field] !== change[field])
      throw new UserFacingError(
        message('This text was changed in another window meanwhile. Both are kept until you choose.'),
        409,
        {
          theirs: now[field],
        },
      )
}

const GONE = {
  lecture: message('This lecture is not here any more. It may have been deleted in another window.'),
  slide: message('This slide is not here any more. It may have been deleted in another window.'),
  picture: message('This picture is not here any more. It may have been deleted in another window.'),
  take: message('This take is not here any more. It may have been deleted in another window.'),
  recording: message('This recording is not here any more. It may have been deleted in another window.'),
  film: message('This film is not here any more. It may have been deleted in another window.'),
  bed: message('This bed is not here any more. It may have been deleted in another window.'),
}
export const gone = (what: keyof typeof GONE) => new UserFacingError(GONE[what], 404)

export async function touch(tx: Tables, lectureId: string) {
  await tx.update(lectures).set({ updatedAt: Date.now() }).where(eq(lectures.id, lectureId))
}

export async function changeLecture(db: Database, id: string, { was, ...change }: z.infer<typeof LectureChange>) {
  await db.write(async (tx) => {
    const [before] = await tx.select().from(lectures).where(eq(lectures.id, id))
    if (before) refuseOverwriting(before, change, was)
    const [row] = await tx
      .update(lectures)
      .set({ ...change, updatedAt: Date.now() })
      .where(eq(lectures.id, id))
      .returning()
    if (!row) throw gone('lecture')
    if (change.language !== undefined) {
      const scripts = and(eq(captionTracks.lectureId, id), eq(captionTracks.origin, 'script'))
      await tx.update(captionTracks).set({ language: change.language }).where(scripts)
    }
    if (change.language !== undefined || change.lineCharacters !== undefined) await remakeAllScriptCues(tx, id)
  })
}

export async function setLectureDeleted(db: Database, id: string, deleted: boolean) {
  const [row] = await db.write((tx) =>
    tx
      .update(lectures)
      .set({ deletedAt: deleted ? Date.now() : null })
      .where(eq(lectures.id, id))
      .returning(),
  )
  if (!row) throw gone('lecture')
}

/** @returns the id of the slide's lecture */
export async function changeSlide(db: Database, id: string, { was, ...change }: z.infer<typeof SlideChange>): Promise<string> {
  return db.write(async (tx) => {
    const [before] = await tx.select().from(slides).where(eq(slides.id, id))
    if (before) refuseOverwriting(before, change, was)
    if (change.keptTakeId) {
      const [take] = await tx
        .select()
        .from(takes)
        .where(and(eq(takes.id, change.keptTakeId), eq(takes.slideId, id), isShownTake))
      if (!take) throw gone('take')
    }
    const said = {
      // a text slide says what of its text cannot be drawn
      ...(change.card ? { warnings: cardWarnings(change.card) } : {}),
      // what a person writes is no draft
      ...(change.altText === undefined ? {} : { isAltTextDraft: false }),
      ...change,
    }
    const [row] = await tx.update(slides).set(said).where(eq(slides.id, id)).returning()
    if (!row) throw gone('slide')
    const isSpokenOtherwise = change.script !== undefined || change.language !== undefined || change.keptTakeId !== undefined
    if (isSpokenOtherwise) await remakeScriptCues(tx, id)
    await touch(tx, row.lectureId)
    return row.lectureId
  })
}

export async function setSlideDeleted(db: Database, id: string, deleted: boolean): Promise<string> {
  return db.write(async (tx) => {
    const [row] = await tx
      .update(slides)
      .set(deleted ? { deletedAt: Date.now() } : { deletedAt: null, isPlaced: true })
      .where(eq(slides.id, id))
      .returning()
    if (!row) throw gone('slide')
    await touch(tx, row.lectureId)
    return row.lectureId
  })
}

/** Puts the slides in a new order. @param order ids of all slides of the lecture that are not deleted */
export async function reorderSlides(db: Database, lectureId: string, order: readonly string[]) {
  await db.write(async (tx) => {
    const rows = await tx
      .select({ id: slides.id })
      .from(slides)
      .where(and(eq(slides.lectureId, lectureId), isShownSlide))
    const known = new Set(rows.map((row) => row.id))
    if (known.size !== order.length || new Set(order).size !== order.length || order.some((id) => !known.has(id))) {
      throw new UserFacingError(
        message('The slides changed in another window meanwhile. Look at the sheet again, then move the slide.'),
        409,
      )
    }
    for (const [position, id] of order.entries()) await tx.update(slides).set({ position }).where(eq(slides.id, id))
    await touch(tx, lectureId)
  })
}

/** Marks a take as deleted or brings it back. Deleting the kept take keeps the newest other one; the answer says which was kept before. */
export async function setTakeDeleted(
  db: Database,
  id: string,
  deleted: boolean,
): Promise<{ lectureId: string; keptTakeId: string | null }> {
  return db.write(async (tx) => {
    const [take] = await tx
      .update(takes)
      .set({ deletedAt: deleted ? Date.now() : null })
      .where(eq(takes.id, id))
      .returning()
    // what somebody took back is theirs
    if (!take || (!deleted && take.voiceState === 'withdrawn')) throw gone('take')
    const [slide] = await tx.select().from(slides).where(eq(slides.id, take.slideId))
    const left = await tx
      .select()
      .from(takes)
      .where(and(eq(takes.slideId, take.slideId), eq(takes.state, 'sealed'), isShownTake))
    // somebody else's voice is kept by nobody but the teacher
    const own = left.filter((t) => t.speaker === null)
    const newest = own.reduce<(typeof left)[number] | null>((best, t) => (t.number > (best?.number ?? 0) ? t : best), null)
    const heard = left.some((t) => t.id === slide!.keptTakeId)
    const keptTakeId = heard ? slide!.keptTakeId : (newest?.id ?? null)
    if (keptTakeId !== slide!.keptTakeId) {
      await tx.update(slides).set({ keptTakeId }).where(eq(slides.id, slide!.id))
      await remakeScriptCues(tx, slide!.id)
    }
    await touch(tx, slide!.lectureId)
    return { lectureId: slide!.lectureId, keptTakeId }
  })
}

/** Keeps a tidyUp for a take. @returns the id of the lecture */
export async function changeTidyUp(db: Database, takeId: string, tidyUp: TidyUp): Promise<string> {
  return db.write(async (tx) => {
    const [row] = await tx.select().from(takes).innerJoin(slides, eq(slides.id, takes.slideId)).where(eq(takes.id, takeId))
    if (row?.takes.state !== 'sealed') throw gone('take')
    const { kept, cuts, pauseCuts, silenced, gains, roomTone } = tidyUp
    const all = [kept, ...cuts, ...pauseCuts, ...silenced, ...gains.map((g) => g.stretch), ...(roomTone ? [roomTone] : [])]
    if (all.some((s) => s.end > row.takes.samples))
      throw new UserFacingError(message('A curtain or a cut lies past the end of the recording.'), 422)
    if (clipSamples(tidyUp) === 0)
      throw new UserFacingError(
        message('Nothing of the recording would be left to hear. Put something back, or delete the take.'),
        422,
      )
    await tx.insert(tidyUps).values({ takeId, tidyUp }).onConflictDoUpdate({ target: tidyUps.takeId, set: { tidyUp } })
    await touch(tx, row.slides.lectureId)
    return row.slides.lectureId
  })
}

/** Whether a take of a slide is kept, in which words can be sought. */
export const isSpoken = async (db: Tables, slideId: string) =>
  (await db.$count(slides, and(eq(slides.id, slideId), isNotNull(slides.keptTakeId)))) > 0

/** @returns the id of the lecture a slide belongs to */
export async function lectureOfSlide(db: Tables, slideId: string): Promise<string> {
  const [row] = await db.select({ lectureId: slides.lectureId }).from(slides).where(eq(slides.id, slideId))
  if (!row) throw gone('slide')
  return row.lectureId
}
