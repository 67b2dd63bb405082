/** Captions from files, or typed, go along when their slide is recorded again: to where its words are now. */
import { randomUUID } from 'node:crypto'
import { and, desc, eq, isNotNull, isNull, ne } from 'drizzle-orm'
import { isConvincing } from '#core/captions/compare/findings.ts'
import { carryCues } from '#core/captions/tracks/carry-cues.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import type { Tables } from '#server/db/database.ts'
import { insertCues } from '#server/db/insert-cues.ts'
import { captionTracks, cues, takes } from '#server/db/schema.ts'
import { isAlignmentOf } from './captions.ts'

/**
 * Gives a take captions of each track that has some for an earlier take of the slide and none for this one. Those of the earlier take stay
 * with it: whoever goes back to it has them. Where the script has changed nothing is given; a check tells of it.
 *
 * @param take whose words were found
 */
export async function carryAttachedCues(
  tx: Tables,
  take: Pick<typeof takes.$inferSelect, 'id' | 'slideId' | 'samples' | 'alignment'>,
) {
  const { alignment } = take
  if (!alignment || !isConvincing(alignment.alignment)) return
  const rows = await tx
    .select({ cue: cues })
    .from(cues)
    .innerJoin(
      captionTracks,
      and(eq(captionTracks.id, cues.trackId), eq(captionTracks.origin, 'file'), isNull(captionTracks.deletedAt)),
    )
    .where(eq(cues.slideId, take.slideId))
  if (rows.length === 0) return
  // once for each take and not for each caption: the words of an hour are megabytes
  const aligned = await tx
    .select({ id: takes.id, number: takes.number, alignment: takes.alignment })
    .from(takes)
    .where(and(eq(takes.slideId, take.slideId), ne(takes.id, take.id), isNotNull(takes.alignment)))
    .orderBy(desc(takes.number))
  const sameScript = aligned.flatMap(({ id, alignment: kept }) =>
    isAlignmentOf(kept, alignment.script, alignment.language) && isConvincing(kept.alignment)
      ? [{ id, kept: kept.alignment }]
      : [],
  )
  for (const trackId of new Set(rows.map(({ cue }) => cue.trackId))) {
    const own = rows.map(({ cue }) => cue).filter((cue) => cue.trackId === trackId)
    if (own.some((cue) => cue.takeId === take.id)) continue
    const last = sameScript.find(({ id }) => own.some((cue) => cue.takeId === id))
    if (!last) continue
    const given = own.filter((cue) => cue.takeId === last.id)
    const times = carryCues(given, last.kept, alignment.alignment, toSeconds(take.samples))
    if (!times) continue
    await insertCues(
      tx,
      given.map((cue, i) => ({ ...cue, ...times[i], id: randomUUID(), trackId, takeId: take.id })),
    )
  }
}
