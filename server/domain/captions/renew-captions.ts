/** After an upgrade: captions from scripts that an earlier version made know no sentences, so that edits of them would not find their place. */
import { and, eq, isNull } from 'drizzle-orm'
import type { Database } from '#server/db/database.ts'
import { captionTracks, cues } from '#server/db/schema.ts'
import { remakeScriptCues } from './captions.ts'

export async function renewCaptions(db: Database) {
  const rows = await db.read
    .selectDistinct({ slideId: cues.slideId })
    .from(cues)
    .innerJoin(captionTracks, and(eq(captionTracks.id, cues.trackId), eq(captionTracks.origin, 'script')))
    .where(and(eq(cues.scriptText, ''), isNull(cues.manualEdit)))
  for (const { slideId } of rows) await db.write((tx) => remakeScriptCues(tx, slideId))
}
