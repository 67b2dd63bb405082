/**
 * Copies of a data folder, made while the app runs, and a data folder made of one again.
 *
 * A backup folder holds `files/` by content, as the data folder does, each file once however many backups need it, and `backups/`, a folder
 * for each one made: the database as it was at one moment, recordings that were under way, and a list of the files it needs. A backup is
 * written beside and renamed when all of it is on disk: one that was broken off is none, and is cleared away by the next.
 */
import { createHash, randomUUID } from 'node:crypto'
import { createReadStream, createWriteStream, mkdirSync } from 'node:fs'
import { copyFile, cp, open, readdir, readFile, rename, rm, stat, writeFile } from 'node:fs/promises'
import { basename, dirname, join, resolve } from 'node:path'
import { type Readable, Transform } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import { createClient } from '@libsql/client'
import { drizzle } from 'drizzle-orm/libsql'
import { z } from 'zod'
import { message } from '#core/words/say.ts'
import type { Config } from '#server/config/config.ts'
import * as schema from '#server/db/schema.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { openStoreToRead } from '#server/storage/bucket/open-store.ts'
import { databaseUrl, lockFolder } from '#server/storage/data-folder.ts'
import { sha256Of } from '#server/storage/file-hash.ts'
import type { FileStore } from '#server/storage/file-store.ts'
import { usedFiles } from './used-files.ts'

const DATABASE = 'lectern.sqlite'
const RECORDINGS = 'recordings'
const PART = '.part-'
const UUID = /^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/

const Manifest = z.object({
  backup: z.literal('tidy-lectern'),
  version: z.literal(1),
  /** ISO 8601. */
  madeAt: z.string(),
  databaseSha256: z.string().length(64),
  /** SHA-256 of each file, which is its name. */
  files: z.array(z.string().regex(/^[0-9a-f]{64}$/)),
  bytes: z.number(),
})
export type BackupManifest = z.infer<typeof Manifest>

export interface BackupMade {
  name: string
  files: number
  bytes: number
  /** Of them, those that were not there from an earlier backup. */
  copiedFiles: number
  copiedBytes: number
}

const pathOf = (folder: string, name: string) => join(folder, 'files', name.slice(0, 2), name)
const sizeOf = (path: string) =>
  stat(path).then(
    ({ size }) => size,
    () => null,
  )

async function sync(path: string) {
  const file = await open(path, 'r')
  await file.sync().finally(() => file.close())
}

/** Copies a file to its place, whole and on disk or not at all. @returns whether what was read has the name's hash */
async function copyChecked(from: Readable, to: string, name: string): Promise<boolean> {
  mkdirSync(dirname(to), { recursive: true })
  const beside = `${to}${PART}${randomUUID()}`
  const hash = createHash('sha256')
  const hashing = new Transform({
    transform(piece: Buffer, _, done) {
      hash.update(piece)
      done(null, piece)
    },
  })
  try {
    await pipeline(from, hashing, createWriteStream(beside, { flags: 'wx' }))
    if (hash.digest('hex') !== name) return false
    await sync(beside)
    await rename(beside, to)
    return true
  } finally {
    await rm(beside, { force: true })
  }
}

/** @returns whether what the store has under a name is that file; null where it has none, in its trash neither */
async function copyStored(store: FileStore, name: string, to: string): Promise<boolean | null> {
  if (await store.has(name)) return copyChecked(store.stream(name), to, name)
  if (!(await store.trash.all()).has(name)) return null
  return store.trash.withLocalFile(name, (path) => copyChecked(createReadStream(path), to, name))
}

/** The database at one moment, without encoded slides, which are made again when they are needed, and without what it knows of a store elsewhere: a backup holds all files. @returns the files it points to */
async function copyDatabase(from: string, to: string): Promise<string[]> {
  const live = createClient({ url: databaseUrl(from), timeout: 5000 })
  try {
    await live.execute({ sql: 'VACUUM INTO ?', args: [to] })
  } finally {
    live.close()
  }
  const copy = createClient({ url: databaseUrl(to) })
  try {
    await copy.execute('PRAGMA journal_mode = DELETE')
    await copy.execute('DELETE FROM segments')
    // an older database, which no app of this version has opened yet, has no such table
    const elsewhere = await copy.execute("SELECT name FROM sqlite_master WHERE name = 'sent_files'")
    if (elsewhere.rows.length > 0) await copy.execute('DELETE FROM sent_files')
    const { rows } = await copy.execute('PRAGMA integrity_check')
    if (rows[0]?.[0] !== 'ok') throw new Error(`The copy of the database is damaged: ${rows[0]?.[0]}`)
    return [...(await usedFiles(drizzle(copy, { schema })))].sort()
  } finally {
    copy.close()
  }
}

/** @throws UserFacingError when another backup is being made there */
const lockTarget = (target: string) =>
  lockFolder(target).catch((error) => {
    throw error instanceof UserFacingError && error.data.isHeld
      ? new UserFacingError(message('Another backup is being made in “{target}”. Wait for it, then try again.', { target }), 409)
      : error
  })

async function clearBroken(target: string) {
  for (const name of await readdir(join(target, 'backups')).catch(() => []))
    if (name.startsWith(PART)) await rm(join(target, 'backups', name), { recursive: true, force: true })
  for (const folder of await readdir(join(target, 'files')).catch(() => []))
    for (const name of await readdir(join(target, 'files', folder)))
      if (name.includes(PART)) await rm(join(target, 'files', folder, name), { force: true })
}

/**
 * @param target a folder of backups, made when missing; outside the data folder
 * @param report told after each file: how many of how many
 * @param setting of a store elsewhere, where files are
 * @throws UserFacingError when the target cannot be used, another backup is being made there, or a file is missing or damaged
 */
export async function makeBackup(
  dataFolder: string,
  target: string,
  report: (done: number, all: number) => void = () => {},
  setting: Config['store'] = null,
): Promise<BackupMade> {
  if (`${resolve(target)}/`.startsWith(`${resolve(dataFolder)}/`))
    throw new UserFacingError(
      message('The backup would lie in the folder that it is a copy of. Choose a folder on another disk.'),
      422,
    )
  if ((await sizeOf(join(dataFolder, DATABASE))) === null)
    throw new UserFacingError(
      message('There are no lectures in “{dataFolder}”. Say where they are in LECTERN_DATA.', { dataFolder }),
      404,
    )
  const lock = await lockTarget(target)
  const live = createClient({ url: databaseUrl(join(dataFolder, DATABASE)), timeout: 5000 })
  try {
    await clearBroken(target)
    const store = await openStoreToRead({ dataFolder, store: setting }, drizzle(live, { schema }))
    const madeAt = new Date().toISOString()
    const name = madeAt.replaceAll(':', '-')
    const part = join(target, 'backups', `${PART}${randomUUID()}`)
    mkdirSync(part, { recursive: true })
    const files = await copyDatabase(join(dataFolder, DATABASE), join(part, DATABASE))
    // after the database: a take that it knows as being recorded is found again from these
    await cp(join(dataFolder, RECORDINGS), join(part, RECORDINGS), { recursive: true }).catch((error: NodeJS.ErrnoException) => {
      if (error.code !== 'ENOENT') throw error
    })
    const made: BackupMade = { name, files: files.length, bytes: 0, copiedFiles: 0, copiedBytes: 0 }
    for (const [i, file] of files.entries()) {
      const there = await sizeOf(pathOf(target, file))
      if (there === null) {
        const isWhole = await copyStored(store, file, pathOf(target, file))
        if (!isWhole)
          throw new UserFacingError(
            isWhole === false
              ? message(
                  'The file {file} is damaged: it is not what was stored. No backup was made; ./lectern doctor tells what it belongs to.',
                  { file },
                )
              : message('The file {file} is missing. No backup was made; ./lectern doctor tells what it belongs to.', { file }),
            500,
          )
        made.copiedFiles++
        made.copiedBytes += (await sizeOf(pathOf(target, file)))!
      }
      made.bytes += (await sizeOf(pathOf(target, file)))!
      report(i + 1, files.length)
    }
    const manifest: BackupManifest = {
      backup: 'tidy-lectern',
      version: 1,
      madeAt,
      databaseSha256: await sha256Of(join(part, DATABASE)),
      files,
      bytes: made.bytes,
    }
    await writeFile(join(part, 'manifest.json'), JSON.stringify(manifest))
    for (const path of [join(part, DATABASE), join(part, 'manifest.json'), part]) await sync(path)
    await rename(part, join(target, 'backups', name))
    await sync(join(target, 'backups'))
    return made
  } finally {
    live.close()
    lock.release()
  }
}

/**
 * Lets all but the newest backups go, and the files that none of those needs.
 *
 * @param keep how many stay, at least one
 * @returns names of those that went
 * @throws UserFacingError when another backup is being made there, or one of those that stay cannot be read
 */
export async function keepBackups(target: string, keep: number): Promise<string[]> {
  const lock = await lockTarget(target)
  try {
    const names = await listBackups(target)
    const staying = names.slice(0, Math.max(1, keep))
    const needed = new Set(
      (await Promise.all(staying.map((name) => readManifest(join(target, 'backups', name))))).flatMap(({ files }) => files),
    )
    const going = names.slice(staying.length)
    for (const name of going) {
      // from here on it is none, whatever happens
      const part = join(target, 'backups', `${PART}${randomUUID()}`)
      await rename(join(target, 'backups', name), part)
      await rm(part, { recursive: true, force: true })
    }
    for (const folder of await readdir(join(target, 'files')).catch(() => []))
      for (const file of await readdir(join(target, 'files', folder)))
        if (!needed.has(file)) await rm(join(target, 'files', folder, file), { force: true })
    return going
  } finally {
    lock.release()
  }
}

/** @returns names of whole backups, the newest first */
export async function listBackups(target: string): Promise<string[]> {
  const names = await readdir(join(target, 'backups')).catch(() => [])
  return names
    .filter((name) => !name.startsWith(PART))
    .sort()
    .reverse()
}

function parsedJson(text: string): unknown {
  try {
    return JSON.parse(text)
  } catch {
    return null
  }
}

/** @throws UserFacingError when it is none, or a later version's */
async function readManifest(folder: string): Promise<BackupManifest> {
  const text = await readFile(join(folder, 'manifest.json'), 'utf8').catch(() => null)
  const parsed = Manifest.safeParse(parsedJson(text ?? ''))
  if (parsed.success) return parsed.data
  throw new UserFacingError(message('“{name}” is no backup that this Tidy Lectern can read.', { name: basename(folder) }), 422)
}

/**
 * Makes a data folder of a backup. It is made beside and renamed when it is whole.
 *
 * @param dataFolder missing, or empty
 * @param wanted name of the backup; null for the newest
 * @throws UserFacingError when there is no such backup, something is in the way, or a file of it is damaged
 */
export async function restoreBackup(
  target: string,
  dataFolder: string,
  wanted: string | null,
  report: (done: number, all: number) => void = () => {},
): Promise<BackupManifest> {
  const names = await listBackups(target)
  const name = wanted ?? names[0]
  if (!name || !names.includes(name))
    throw new UserFacingError(
      names.length === 0
        ? message('There is no backup in “{target}”. Name the folder that ./lectern backup was given.', { target })
        : message('There is no backup “{wanted}”. There are: {names}.', { wanted: name ?? '', names: names.join(', ') }),
      404,
    )
  if ((await readdir(dataFolder).catch(() => [])).length > 0)
    throw new UserFacingError(
      message(
        '“{dataFolder}” is not empty, and nothing in it is overwritten. Move it away, or choose another with LECTERN_DATA.',
        { dataFolder },
      ),
      409,
    )
  const from = join(target, 'backups', name)
  const manifest = await readManifest(from)
  const [parent, own] = [dirname(resolve(dataFolder)), `${basename(resolve(dataFolder))}${PART}`]
  // of earlier tries that were broken off; a folder that somebody has called alike is not ours
  for (const left of await readdir(parent).catch(() => []))
    if (left.startsWith(own) && UUID.test(left.slice(own.length))) await rm(join(parent, left), { recursive: true, force: true })
  const part = join(parent, `${own}${randomUUID()}`)
  try {
    mkdirSync(part, { recursive: true })
    await copyFile(join(from, DATABASE), join(part, DATABASE))
    if ((await sha256Of(join(part, DATABASE))) !== manifest.databaseSha256)
      throw new UserFacingError(
        message('The database of this backup is damaged. Take an earlier one: {names}.', { names: names.join(', ') }),
        500,
      )
    await cp(join(from, RECORDINGS), join(part, RECORDINGS), { recursive: true }).catch((error: NodeJS.ErrnoException) => {
      if (error.code !== 'ENOENT') throw error
    })
    for (const [i, file] of manifest.files.entries()) {
      if (
        (await sizeOf(pathOf(target, file))) === null ||
        !(await copyChecked(createReadStream(pathOf(target, file)), pathOf(part, file), file))
      )
        throw new UserFacingError(
          message('The file {file} of this backup is missing or damaged. Nothing was restored; take an earlier one: {names}.', {
            file,
            names: names.join(', '),
          }),
          500,
        )
      report(i + 1, manifest.files.length)
    }
    await sync(join(part, DATABASE))
    // an empty folder may stand there
    await rename(part, dataFolder).catch((error: NodeJS.ErrnoException) => {
      if (error.code !== 'EBUSY' && error.code !== 'EXDEV') throw error
      throw new UserFacingError(
        message('“{dataFolder}” is a disk of its own, which no folder can take the place of. Name a folder on it.', {
          dataFolder,
        }),
        409,
      )
    })
    return manifest
  } finally {
    await rm(part, { recursive: true, force: true })
  }
}
