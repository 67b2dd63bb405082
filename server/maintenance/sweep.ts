/** Lays stored files in the trash that nothing points to: what a failed import or an abandoned upload left. */
import { and, inArray, isNotNull, lt } from 'drizzle-orm'
import type { AppContext } from '#server/context/context.ts'
import { editionFiles, editions, replacements, segments } from '#server/db/schema.ts'
import { isLoss } from '#server/storage/file-store.ts'
import { usedFiles } from './used-files.ts'

const DAY_MS = 24 * 3600_000
/** A file this young may belong to work that is going on. */
const YOUNGEST_MS = DAY_MS
const TRASH_KEPT_MS = 30 * DAY_MS
/** An edition that was taken away can be brought back for so long. */
const DELETED_EDITIONS_MS = 30 * DAY_MS
/** Segments that no edition has needed for so long are made again when one does. */
const UNUSED_SEGMENTS_MS = 60 * DAY_MS
/** A new version of a deck has pictures that no slide shows yet; so long it waits for somebody to decide. */
const REPLACEMENTS_WAIT_MS = 30 * DAY_MS

/** @returns files of rows that were let go after their time, which are removed and not laid in the trash: their month is over, or they are made again */
async function forget({ db }: Pick<AppContext, 'db'>, now: number): Promise<string[]> {
  return db.write(async (tx) => {
    const gone = await tx
      .select({ id: editions.id })
      .from(editions)
      .where(and(isNotNull(editions.deletedAt), lt(editions.deletedAt, now - DELETED_EDITIONS_MS)))
    const ofEditions = await tx
      .delete(editionFiles)
      .where(
        inArray(
          editionFiles.editionId,
          gone.map((row) => row.id),
        ),
      )
      .returning()
    await tx.delete(replacements).where(lt(replacements.createdAt, now - REPLACEMENTS_WAIT_MS))
    const ofSegments = await tx
      .delete(segments)
      .where(lt(segments.usedAt, now - UNUSED_SEGMENTS_MS))
      .returning()
    return [...ofEditions, ...ofSegments].map((row) => row.file)
  })
}

export interface Swept {
  /** Files laid in the trash. */
  laid: string[]
  /** Files that belong to nothing and were left where they are, because they are too many. */
  left: number
  /** Files that something points to and that were in the trash. */
  broughtBack: string[]
}

const dayOf = (moment: number) => new Date(moment).toISOString().slice(0, 10)

export async function sweep(
  { db, store }: Pick<AppContext, 'db' | 'store'>,
  youngestMs = YOUNGEST_MS,
  now = Date.now(),
): Promise<Swept> {
  const over = await forget({ db }, now)
  const used = await usedFiles(db.read)
  const broughtBack: string[] = []
  // a database that was put back knows them again
  for (const name of await store.trash.all())
    if (used.has(name) && !(await store.has(name)) && (await store.trash.bringBack(name))) broughtBack.push(name)
  for (const name of over) if (!used.has(name)) store.remove(name)
  const strays = (await store.olderThan(now - youngestMs)).filter((name) => !used.has(name))
  const all = (await store.all()).length
  const isLost = isLoss(strays.length, all)
  if (!isLost) for (const name of strays) await store.trash.lay(name, dayOf(now))
  await store.trash.empty(dayOf(now - TRASH_KEPT_MS))
  if (isLost) {
    const refusal = `${strays.length} of ${all} files belong to nothing the database knows. Was it lost, or an older one put back? They were left where they are.`
    console.error(refusal)
    await store.trash.note(refusal)
  } else if (strays.length > 0) await store.trash.note(`Laid in the trash: ${strays.join(' ')}`)
  if (broughtBack.length > 0) await store.trash.note(`Brought back: ${broughtBack.join(' ')}`)
  return { laid: isLost ? [] : strays, left: isLost ? strays.length : 0, broughtBack }
}
