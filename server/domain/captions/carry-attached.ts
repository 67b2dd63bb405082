/** Captions from files, or typed, go along when their slide is recorded again: to where its words are now. */
import { randomUUID } from 'node:crypto'
import { and, eq, isNull } from 'drizzle-orm'
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
    .select({ cue: cues, take: takes })
    .from(cues)
    .innerJoin(
      captionTracks,
      and(eq(captionTracks.id, cues.trackId), eq(captionTracks.origin, 'file'), isNull(captionTracks.deletedAt)),
    )
    .innerJoin(takes, eq(takes.id, cues.takeId))
    .where(eq(cues.slideId, take.slideId))
  for (const trackId of new Set(rows.map(({ cue }) => cue.trackId))) {
    const own = rows.filter(({ cue }) => cue.trackId === trackId)
    if (own.some(({ cue }) => cue.takeId === take.id)) continue
    const earlier = own
      .filter(
        ({ take: { alignment: kept } }) =>
          isAlignmentOf(kept, alignment.script, alignment.language) && isConvincing(kept.alignment),
      )
      .sort((a, b) => b.take.number - a.take.number)
    const [last] = earlier
    if (!last) continue
    const given = earlier.filter(({ take: { id } }) => id === last.take.id).map(({ cue }) => cue)
    const times = carryCues(given, last.take.alignment!.alignment, alignment.alignment, toSeconds(take.samples))
    if (!times) continue
    await insertCues(
      tx,
      given.map((cue, i) => ({ ...cue, ...times[i], id: randomUUID(), trackId, takeId: take.id })),
    )
  }
}
