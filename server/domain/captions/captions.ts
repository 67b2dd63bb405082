/** Caption tracks: those that make themselves from the scripts, and what people change in any of them. */

import { randomUUID } from 'node:crypto'
import { and, asc, eq, inArray, isNull } from 'drizzle-orm'
import { z } from 'zod'
import { ALIGN_VERSION } from '#core/captions/align/align.ts'
import { isConvincing } from '#core/captions/compare/findings.ts'
import { preserveCueIds } from '#core/captions/edit/preserve-cue-ids.ts'
import { makeCues } from '#core/captions/generate/make-cues.ts'
import { Language } from '#core/language-tag.ts'
import { CAPTION_KINDS, type CaptionKind, ManualEdit, type StoredCue } from '#core/model/caption.ts'
import { textOf } from '#core/script/points.ts'
import { canBeTimed } from '#core/script/timed-languages.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { message } from '#core/words/say.ts'
import type { Database, Tables } from '#server/db/database.ts'
import { insertCues } from '#server/db/insert-cues.ts'
import type { KeptAlignment } from '#server/db/kept.ts'
import { captionTracks, cues, lectures, slides, takes } from '#server/db/schema.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'

/** What a kept alignment must have been made for to be of use. */
export const isAlignmentOf = (kept: KeptAlignment | null, script: string, language: string): kept is KeptAlignment =>
  kept !== null && kept.version === ALIGN_VERSION && kept.script === script && kept.language === language

const cuesOf = (trackId: string, slideId: string) => and(eq(cues.trackId, trackId), eq(cues.slideId, slideId))

const stored = ({ trackId: _, ...cue }: typeof cues.$inferSelect): StoredCue => cue

/**
 * Makes the captions of a slide again from its script and its kept take. Part of every change to either of the two,
 * in the same transaction, so that captions are never those of an earlier script. Until the words were found in the recording
 * they are spread over the speech by length. What somebody changed by hand stays.
 */
export async function remakeScriptCues(tx: Tables, slideId: string) {
  const [row] = await tx
    .select({
      script: slides.script,
      ownLanguage: slides.language,
      keptTakeId: slides.keptTakeId,
      lineCharacters: lectures.lineCharacters,
      track: captionTracks,
    })
    .from(slides)
    .innerJoin(lectures, eq(lectures.id, slides.lectureId))
    .innerJoin(captionTracks, and(eq(captionTracks.lectureId, slides.lectureId), eq(captionTracks.origin, 'script')))
    .where(eq(slides.id, slideId))
  if (!row) return
  const { ownLanguage, keptTakeId, lineCharacters, track } = row
  // points are spoken about: their words are no captions
  const script = textOf(row.script)
  const language = ownLanguage ?? track.language
  const before = (await tx.select().from(cues).where(cuesOf(track.id, slideId)).orderBy(asc(cues.start))).map(stored)
  const [take] = keptTakeId ? await tx.select().from(takes).where(eq(takes.id, keptTakeId)) : []
  // without a recording nothing is shown, and what was changed by hand waits for the next one
  if (!take?.analysis) {
    await tx.delete(cues).where(and(cuesOf(track.id, slideId), isNull(cues.manualEdit)))
    return
  }
  const kept = isAlignmentOf(take.alignment, script, language) ? take.alignment.alignment : null
  const convincing = kept !== null && isConvincing(kept)
  const earlier = take.alignment?.language === language ? take.alignment.alignment : null
  const wereFound = kept === null && earlier !== null && isConvincing(earlier)
  const seconds = toSeconds(take.samples)
  const material = { script, language, lineCharacters, takeId: take.id, seconds, speech: take.analysis.speech }
  const made = makeCues(
    {
      ...material,
      alignment: convincing ? kept : null,
      unsure: (kept !== null && !convincing) || !canBeTimed(language),
      wereFound,
    },
    before,
  )
  const names = preserveCueIds(before, made, randomUUID)
  await tx.delete(cues).where(cuesOf(track.id, slideId))
  await insertCues(
    tx,
    made.map((cue, i) => ({ ...cue, id: names[i]!, trackId: track.id, slideId })),
  )
}

/** Makes all captions of a lecture again, as after a change of how long their lines are. */
export async function remakeAllScriptCues(tx: Tables, lectureId: string) {
  const rows = await tx.select({ id: slides.id }).from(slides).where(eq(slides.lectureId, lectureId))
  for (const { id } of rows) await remakeScriptCues(tx, id)
}

/** The captions of one slide as somebody left them. */
export const SlideCues = z
  .array(
    z
      .object({
        id: z.uuid(),
        takeId: z.string().nullable(),
        start: z.number().min(0).max(86_400),
        end: z.number().min(0).max(86_400),
        text: z.string().max(2000, message('A caption has at most 2,000 characters. Divide it.').id),
        markup: z.string().max(4000).nullable(),
        settings: z.string().max(200),
        needsReview: z.boolean(),
        scriptText: z.string().max(20_000),
        manualEdit: ManualEdit,
      })
      .refine((cue) => cue.end > cue.start, message('A caption must end after it starts.').id),
  )
  .max(3000, message('A slide has at most 3,000 captions.').id)

async function trackForEdits(tx: Tables, trackId: string) {
  const [track] = await tx
    .select()
    .from(captionTracks)
    .where(and(eq(captionTracks.id, trackId), isNull(captionTracks.deletedAt)))
  if (!track) throw new UserFacingError(message('These captions are not here any more.'), 404)
  return track
}

/**
 * Puts captions of one slide in the place of those it has.
 *
 * @returns the lecture
 * @throws UserFacingError when the track or the slide is gone, or a caption belongs to a take of another slide
 */
export async function setSlideCues(
  db: Database,
  trackId: string,
  slideId: string,
  list: z.infer<typeof SlideCues>,
): Promise<string> {
  return db.write(async (tx) => {
    const track = await trackForEdits(tx, trackId)
    if (track.origin === 'translation')
      throw new UserFacingError(message('The times of a translation are those of the captions it translates.'), 409)
    const [slide] = await tx
      .select()
      .from(slides)
      .where(and(eq(slides.id, slideId), eq(slides.lectureId, track.lectureId)))
    if (!slide) throw new UserFacingError(message('This slide is not here any more.'), 404)
    const takeIds = [...new Set(list.flatMap((cue) => cue.takeId ?? []))]
    const known = await tx
      .select({ id: takes.id })
      .from(takes)
      .where(and(inArray(takes.id, takeIds), eq(takes.slideId, slideId)))
    if (known.length !== takeIds.length)
      throw new UserFacingError(message('A caption belongs to a recording that is not on this slide any more.'), 409)
    await tx.delete(cues).where(cuesOf(trackId, slideId))
    await insertCues(
      tx,
      list.map((cue) => ({ ...cue, trackId, slideId })),
    )
    // words that were divided or joined stand where they are heard, not where letters would put them
    if (track.origin === 'script') await remakeScriptCues(tx, slideId)
    await tx.update(lectures).set({ updatedAt: Date.now() }).where(eq(lectures.id, track.lectureId))
    return track.lectureId
  })
}

/** What a track is called and for; its language can change where nothing hangs on it. */
export const TrackChange = z
  .object({ label: z.string().trim().min(1).max(120), language: Language, kind: z.enum(CAPTION_KINDS) })
  .partial()

export async function changeTrack(db: Database, trackId: string, change: z.infer<typeof TrackChange>): Promise<string> {
  return db.write(async (tx) => {
    const track = await trackForEdits(tx, trackId)
    await tx.update(captionTracks).set(change).where(eq(captionTracks.id, trackId))
    // captions from the scripts are in the language of the lecture, and the voice that finds their words with them
    if (track.origin === 'script' && change.language) {
      await tx.update(lectures).set({ language: change.language }).where(eq(lectures.id, track.lectureId))
      await remakeAllScriptCues(tx, track.lectureId)
    }
    return track.lectureId
  })
}

/** Begins an empty track, to be typed or, as a translation, to be filled caption by caption. */
export async function addTrack(
  db: Database,
  lectureId: string,
  track: { language: string; label: string; origin: 'file' | 'translation'; kind: CaptionKind },
): Promise<string> {
  const id = randomUUID()
  await db.write(async (tx) => {
    const [lecture] = await tx.select().from(lectures).where(eq(lectures.id, lectureId))
    if (!lecture) throw new UserFacingError(message('This lecture is not here any more. Go back to the shelf.'), 404)
    await tx.insert(captionTracks).values({ id, lectureId, ...track })
    await tx.update(lectures).set({ updatedAt: Date.now() }).where(eq(lectures.id, lectureId))
  })
  return id
}

/** Marks a track as deleted, or brings it back. */
export async function setTrackDeleted(db: Database, trackId: string, deleted: boolean): Promise<string> {
  const [track] = await db.write((tx) =>
    tx
      .update(captionTracks)
      .set({ deletedAt: deleted ? Date.now() : null })
      .where(and(eq(captionTracks.id, trackId), inArray(captionTracks.origin, ['file', 'translation'])))
      .returning(),
  )
  if (!track) throw new UserFacingError(message('These captions are not here any more, or they belong to the scripts.'), 404)
  return track.lectureId
}
