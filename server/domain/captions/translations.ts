/** Captions in another language, caption by caption: the words are theirs, the times those of the captions they translate. */

import { and, eq } from 'drizzle-orm'
import { z } from 'zod'
import type { StoredCue } from '#core/model/caption.ts'
import { message } from '#core/words/say.ts'
import type { Database } from '#server/db/database.ts'
import { captionTracks, lectures, translations } from '#server/db/schema.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'

/** What a caption is in the other language; an empty text takes the translation away. */
export const Translated = z
  .array(z.object({ cueId: z.string(), text: z.string().max(2000), original: z.string().max(2000) }))
  .max(3000)

/** @returns the lecture @throws UserFacingError when there is no such translation */
export async function translate(db: Database, trackId: string, list: z.infer<typeof Translated>): Promise<string> {
  return db.write(async (tx) => {
    const [track] = await tx
      .select()
      .from(captionTracks)
      .where(and(eq(captionTracks.id, trackId), eq(captionTracks.origin, 'translation')))
    if (!track) throw new UserFacingError(message('This translation is not here any more.'), 404)
    for (const { cueId, text, original } of list) {
      const same = and(eq(translations.trackId, trackId), eq(translations.cueId, cueId))
      await tx.delete(translations).where(same)
      if (text.trim() !== '') await tx.insert(translations).values({ trackId, cueId, text, original })
    }
    await tx.update(lectures).set({ updatedAt: Date.now() }).where(eq(lectures.id, track.lectureId))
    return track.lectureId
  })
}

/** The captions of a translation: those of the original that were translated, with their words. */
export function translatedCues(original: readonly StoredCue[], rows: readonly (typeof translations.$inferSelect)[]): StoredCue[] {
  const byCue = new Map(rows.map((row) => [row.cueId, row]))
  return original.flatMap((cue) => {
    const row = byCue.get(cue.id)
    if (!row || cue.text === '') return []
    return [{ ...cue, text: row.text, markup: null, scriptText: '', manualEdit: null, needsReview: row.original !== cue.text }]
  })
}
