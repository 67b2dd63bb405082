/** How much room the data folder takes, and how much there is. */
import { readdir, stat, statfs } from 'node:fs/promises'
import { join } from 'node:path'
import { and, eq, isNull, sum } from 'drizzle-orm'
import type { AppContext } from '#server/context/context.ts'
import { editionFiles, editions, segments } from '#server/db/schema.ts'

export interface StorageUse {
  folder: string
  bytes: number
  freeBytes: number
  /** Of that, encoded slides that can be made again, and published files. */
  segmentsBytes: number
  editionsBytes: number
}

async function bytesBelow(folder: string): Promise<number> {
  let bytes = 0
  for (const entry of await readdir(folder, { withFileTypes: true }).catch(() => [])) {
    const path = join(folder, entry.name)
    // a file may be moved into its place meanwhile
    bytes += entry.isDirectory() ? await bytesBelow(path) : ((await stat(path).catch(() => null))?.size ?? 0)
  }
  return bytes
}

export async function storageUse({ config, db }: Pick<AppContext, 'config' | 'db'>): Promise<StorageUse> {
  const { bavail, bsize } = await statfs(config.dataFolder)
  const [segment] = await db.read.select({ bytes: sum(segments.bytes) }).from(segments)
  const [published] = await db.read
    .select({ bytes: sum(editionFiles.bytes) })
    .from(editionFiles)
    .innerJoin(editions, and(eq(editions.id, editionFiles.editionId), isNull(editions.deletedAt)))
  return {
    folder: config.dataFolder,
    bytes: await bytesBelow(config.dataFolder),
    freeBytes: bavail * bsize,
    segmentsBytes: Number(segment?.bytes ?? 0),
    editionsBytes: Number(published?.bytes ?? 0),
  }
}
