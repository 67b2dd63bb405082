/** Folders of data that earlier versions wrote open in this one, and what waited in them goes on. */
import { randomUUID } from 'node:crypto'
import { cpSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { basename, dirname, join } from 'node:path'
import { createClient } from '@libsql/client'
import { sql } from 'drizzle-orm'
import { unzipSync } from 'fflate'
import { afterEach, expect, test } from 'vitest'
import type { Lecture } from '#core/model/lecture.ts'
import { DEFAULT_TIMING } from '#core/model/timing.ts'
import { openDatabase } from '#server/db/database.ts'
import { captionTracks, cues, jobs, lectures, slides, steps, takes } from '#server/db/schema.ts'
import { openTestApp } from '#tests/api/harness.ts'

const FIXTURES = join(import.meta.dirname, '../../fixtures')
const MIGRATIONS = join(import.meta.dirname, '../../../server/db/migrations')
const folders: string[] = []
const newFolder = () => {
  const folder = mkdtempSync(join(tmpdir(), 'lectern-earlier-'))
  folders.push(folder)
  return folder
}
afterEach(() => {
  for (const folder of folders.splice(0)) rmSync(folder, { recursive: true, force: true })
})

function write(path: string, bytes: Uint8Array) {
  mkdirSync(dirname(path), { recursive: true })
  writeFileSync(path, bytes)
}

/** The data folder of the version before names were those of the trade: bundle 1 brought in, and work waiting in its queue. */
function dataOfVersionOne(): string {
  const folder = newFolder()
  for (const [name, bytes] of Object.entries(unzipSync(readFileSync(join(FIXTURES, 'data-1.zip')))))
    write(join(folder, name), bytes)
  // pictures and recordings are those of the bundle, under the same names
  for (const [name, bytes] of Object.entries(unzipSync(readFileSync(join(FIXTURES, 'bundle-1.lectern.zip'))))) {
    const hash = basename(name).split('.')[0]!
    if (hash.length === 64) write(join(folder, 'files', hash.slice(0, 2), hash), bytes)
  }
  return folder
}

test('a folder of version 1 opens with all that it holds, and its waiting jobs are done under their new names', async () => {
  const app = await openTestApp({ dataFolder: dataOfVersionOne() })
  try {
    await app.idle()
    const { lectures: shelf } = await app.read<{ lectures: { id: string }[] }>('/api/lectures')
    const lecture = await app.read<Lecture>(`/api/lectures/${shelf[0]!.id}`)
    expect(lecture.exportSettings).toMatchObject({ author: 'The teacher', presets: ['standard', 'small'] })
    expect(lecture.slides[1]!.warnings).toEqual([{ id: 'A chart of a kind that is not known here could not be drawn.' }])
    const [first, second] = lecture.slides
    expect(first!.steps).toHaveLength(1)
    const before = first!.takes.find((take) => take.number === 1)!
    expect(before.analysis!.noiseFloorDb).toBeLessThan(-40)
    expect(before.clip!.figures).toMatchObject({ gainReductionDb: 0 })
    expect(before.clip!.figures.noiseFloorDb).toBeLessThan(-60)
    expect(before.tidyUp!.cleaning).toBe(0.6)
    // recorded straight through and not divided yet when the folder was closed
    expect(first!.takes.map((take) => take.number).sort()).toEqual([1, 2])
    expect(second!.takes.map((take) => take.number)).toEqual([1])
    const rows = await app.context.db.read.select().from(takes)
    const whole = rows.find((take) => take.isContinuous)!
    expect(whole).toMatchObject({ number: 0, deletedAt: null, dropoutCount: 2, dropoutMs: 34 })
    expect(rows.filter((take) => take.sourceRecordingId === whole.id)).toHaveLength(2)
    expect(rows.find((take) => take.id === before.id)!.alignment!.alignment).toMatchObject({
      sentences: [{ needsReview: true }, { needsReview: false }],
      offScript: [{ start: 5, end: 5.5 }],
    })
    expect((await app.context.db.read.select().from(cues)).map((cue) => cue.manualEdit)).toContain('text')
    const { trashed } = await app.read<{ trashed: unknown[] }>(`/api/lectures/${lecture.id}/trash`)
    expect(trashed).toEqual([])
    const done = async () => (await app.context.db.read.select().from(jobs)).map((job) => `${job.kind} ${job.state}`)
    for (const kind of ['import-sound', 'split-recording', 'patch-sentence', 'split-session'])
      expect(await done()).toContain(`${kind} done`)
    // it is work in the background, which nobody is told of
    await expect.poll(done, { timeout: 60_000 }).toContain('pre-encode done')
  } finally {
    await app.end()
  }
})

test('what the very first version wrote is read by this one', async () => {
  const folder = newFolder()
  const migrations = join(newFolder(), 'migrations')
  cpSync(MIGRATIONS, migrations, { recursive: true })
  const journal = join(migrations, 'meta/_journal.json')
  const { entries, ...rest } = JSON.parse(readFileSync(journal, 'utf8')) as { entries: unknown[] }
  writeFileSync(journal, JSON.stringify({ ...rest, entries: entries.slice(0, 1) }))
  ;(await openDatabase(folder, migrations)).close()
  const client = createClient({ url: `file:${join(folder, 'lectern.sqlite')}` })
  await client.executeMultiple(`
    INSERT INTO lectures (id, title, language, timing, createdAt, updatedAt) VALUES ('l', 'Rain', 'en', '{}', 1, 1);
    INSERT INTO slides (id, lectureId, position, title, altText, script, timing) VALUES ('s', 'l', 0, 'Rain', '', 'It rains.', '{}');
    INSERT INTO steps (id, slideId, position, picture, thumbnail, width, height) VALUES ('p', 's', 0, 'a', 'b', 1920, 1080);
    INSERT INTO takes (id, slideId, number, state, startedAt, microphone, gaps, samples, sound, analysis)
      VALUES ('t', 's', 1, 'sealed', 1, 'Microphone', 3, 480000, 'c', '{"speech":[],"roomDb":-50,"loudnessLufs":null,"truePeakDbtp":null,"clippedSamples":0}');
    INSERT INTO captionTracks (id, lectureId, language, label, origin) VALUES ('c', 'l', 'en', 'Captions', 'script');
    INSERT INTO cues (id, trackId, slideId, takeId, start, "end", text, settings) VALUES ('q', 'c', 's', 't', 0, 1, 'It rains.', '');
    INSERT INTO jobs (id, kind, lectureId, payload, state, createdAt) VALUES ('j', 'tidy', 'l', '{"takeId":"t"}', 'done', 1);
  `)
  client.close()
  const { read, close } = await openDatabase(folder)
  expect(await read.select().from(lectures)).toMatchObject([{ title: 'Rain', exportSettings: null, deletedAt: null }])
  expect(await read.select().from(slides)).toMatchObject([{ script: 'It rains.', isPlaced: true, warnings: null }])
  expect(await read.select().from(steps)).toMatchObject([{ width: 1920, isPlaced: true }])
  expect(await read.select().from(takes)).toMatchObject([
    { number: 1, dropoutCount: 3, dropoutMs: 0, isContinuous: false, analysis: { noiseFloorDb: -50 } },
  ])
  expect(await read.select().from(captionTracks)).toMatchObject([{ kind: 'captions' }])
  expect(await read.select().from(cues)).toMatchObject([{ text: 'It rains.', manualEdit: null, needsReview: false }])
  expect(await read.select().from(jobs)).toMatchObject([{ kind: 'tidy', state: 'done' }])
  close()
})

test('changes of the database bear times that go on, or those who have an earlier one would never get them', () => {
  const whens = (
    JSON.parse(readFileSync(join(MIGRATIONS, 'meta/_journal.json'), 'utf8')) as { entries: { when: number }[] }
  ).entries.map(({ when }) => when)
  expect(whens).toEqual([...new Set(whens)].sort((a, b) => a - b))
})

/** A database as a version left it that knew the first changes only, each by the time it bore then. */
async function databaseOf(changes: { known: number; times: Record<number, number> }): Promise<string> {
  const migrations = newFolder()
  cpSync(MIGRATIONS, migrations, { recursive: true })
  const path = join(migrations, 'meta/_journal.json')
  const journal = JSON.parse(readFileSync(path, 'utf8')) as { entries: { when: number }[] }
  journal.entries = journal.entries.slice(0, changes.known)
  for (const [i, when] of Object.entries(changes.times)) journal.entries[Number(i)]!.when = when
  writeFileSync(path, JSON.stringify(journal))
  const folder = newFolder()
  const db = await openDatabase(folder, migrations)
  // by the columns of then: those of now are not there yet
  await db.write((tx) =>
    tx.run(
      sql`INSERT INTO lectures (id, title, language, timing, createdAt, updatedAt) VALUES (${randomUUID()}, 'Kept', 'en', ${JSON.stringify(DEFAULT_TIMING)}, 0, 0)`,
    ),
  )
  db.close()
  return folder
}
const columnsOfTakes = async (folder: string) => {
  const client = createClient({ url: `file:${join(folder, 'lectern.sqlite')}` })
  const { rows } = await client.execute('PRAGMA table_info(takes)')
  client.close()
  return rows.map((row) => row[1])
}
const copiesIn = (folder: string) => readdirSync(folder).filter((name) => name.startsWith('lectern-before-'))

test.each([
  ['that lacks the last changes', { known: 18, times: {} }],
  // the 19th change once bore a time before the 18th
  ['whose last change bore an earlier time', { known: 19, times: { 18: 1796012178378 } }],
])('a database %s gets them, after a copy of it was laid beside it', async (_, changes) => {
  const folder = await databaseOf(changes)
  expect(copiesIn(folder)).toEqual([])
  const db = await openDatabase(folder)
  db.close()
  expect(await columnsOfTakes(folder)).toEqual(expect.arrayContaining(['heardSounds', 'draft']))
  expect(copiesIn(folder)).toHaveLength(1)
  const copy = createClient({ url: `file:${join(folder, copiesIn(folder)[0]!)}` })
  expect((await copy.execute('SELECT title FROM lectures')).rows[0]![0]).toBe('Kept')
  copy.close()
  // nothing is copied where nothing changes
  const again = await openDatabase(folder)
  again.close()
  expect(copiesIn(folder)).toHaveLength(1)
})
