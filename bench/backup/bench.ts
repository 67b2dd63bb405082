/** `npm run bench -- backup`: what a second backup costs beside the first and beside a plain copy of the folder, many small lectures, one in fifty changed. */
import { randomBytes, randomUUID } from 'node:crypto'
import { cpSync, mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { BenchOptions, Figure } from '#bench/report/report.ts'
import { DEFAULT_TIMING } from '#core/model/timing.ts'
import { type Database, openDatabase } from '#server/db/database.ts'
import { lectures, slides, takes } from '#server/db/schema.ts'
import { makeBackup } from '#server/maintenance/backup.ts'
import { type FileStore, folderStore } from '#server/storage/file-store.ts'

const LECTURES = 250
const SLIDES = 8
const SOUND_BYTES = 150_000
const CHANGED = LECTURES / 50

/** A lecture whose takes have sounds of nothing: a backup does not listen. */
async function addLecture(db: Database, store: FileStore, title: string) {
  const lectureId = randomUUID()
  const sounds = await Promise.all(Array.from({ length: SLIDES }, () => store.put(randomBytes(SOUND_BYTES))))
  const [now, number] = [Date.now(), 1]
  await db.write(async (tx) => {
    await tx
      .insert(lectures)
      .values({ id: lectureId, title, language: 'en', timing: DEFAULT_TIMING, createdAt: now, updatedAt: now })
    for (const [position, sound] of sounds.entries()) {
      const [slideId, id] = [randomUUID(), randomUUID()]
      await tx
        .insert(slides)
        .values({ id: slideId, lectureId, position, title: '', altText: '', script: '', timing: {}, keptTakeId: id })
      await tx.insert(takes).values({ id, slideId, number, state: 'sealed', startedAt: now, microphone: '', samples: 1, sound })
    }
  })
}

async function timed(work: () => unknown): Promise<number> {
  const began = performance.now()
  await work()
  return (performance.now() - began) / 1000
}

export async function bench({ rounds }: BenchOptions): Promise<Figure[]> {
  const folder = mkdtempSync(join(tmpdir(), 'lectern-bench-backup-'))
  const sums = { first: 0, second: 0, copied: 0, changed: 0, plain: 0 }
  try {
    for (let round = 0; round < (rounds ?? 3); round++) {
      const [data, target, copy] = ['data', 'backups', 'copy'].map((name) => join(folder, `${round} ${name}`)) as [
        string,
        string,
        string,
      ]
      const db = await openDatabase(data)
      const store = folderStore(data)
      for (let n = 0; n < LECTURES; n++) await addLecture(db, store, `Lecture ${n}`)
      sums.first += await timed(() => makeBackup(data, target))
      for (let n = 0; n < CHANGED; n++) await addLecture(db, store, `Later ${n}`)
      sums.second += await timed(async () => {
        sums.copied += (await makeBackup(data, target)).copiedBytes
      })
      sums.changed += CHANGED * SLIDES * SOUND_BYTES
      sums.plain += await timed(() => cpSync(data, copy, { recursive: true }))
      db.close()
      for (const made of [data, target, copy]) rmSync(made, { recursive: true, force: true })
    }
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
  const part = (value: number, of: number) => value / of
  return [
    {
      name: 'second backup beside the first, time',
      value: part(sums.second, sums.first),
      goal: '≤ 0.1',
      unit: '×',
      ok: part(sums.second, sums.first) <= 0.1,
    },
    {
      name: 'bytes copied beside bytes that are new',
      value: part(sums.copied, sums.changed),
      goal: '≤ 1',
      unit: '×',
      ok: sums.copied <= sums.changed,
    },
    {
      name: 'first backup beside a plain copy, which checks nothing',
      value: part(sums.first, sums.plain),
      goal: '–',
      unit: '×',
      ok: null,
    },
    {
      name: 'second backup beside a plain copy',
      value: part(sums.second, sums.plain),
      goal: '–',
      unit: `× of ${LECTURES} lectures, ${(LECTURES * SLIDES * SOUND_BYTES) / 1e6} MB`,
      ok: null,
    },
  ]
}
