/** The lecture that most tests begin with: its PDF is read once, and what came of it is laid into the database for each of them. */
import { createHash, randomUUID } from 'node:crypto'
import { existsSync, mkdirSync, readdirSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { type Database, openDatabase } from '#server/db/database.ts'
import { createLecture } from '#server/domain/lectures/create.ts'
import { startImporter } from '#server/import/importer.ts'
import type { ImportedPage } from '#server/import/tasks.ts'
import { type FileStore, folderStore } from '#server/storage/file-store.ts'

const root = join(import.meta.dirname, '../..')
const PDF = join(root, 'demo/files/clouds-by-their-shapes.pdf')
const READER = join(root, 'dist/server/import.js')
const CACHE = join(root, '.cache/seed')

let read: Promise<string> | null = null

/** @returns a folder with `pages.json` and the store that their pictures lie in */
function readPages(): Promise<string> {
  read ??= (async () => {
    // read again by another reader
    const key = createHash('sha256').update(readFileSync(PDF)).update(readFileSync(READER)).digest('hex').slice(0, 16)
    const kept = join(CACHE, key)
    if (existsSync(kept)) return kept
    // what earlier readers read; another worker may be reading at this moment
    for (const name of existsSync(CACHE) ? readdirSync(CACHE) : [])
      if (/^[0-9a-f]{16}$/.test(name)) rmSync(join(CACHE, name), { recursive: true, force: true })
    const dataFolder = join(CACHE, `${process.pid}`)
    mkdirSync(dataFolder, { recursive: true })
    const store = folderStore(dataFolder)
    const file = await store.put(readFileSync(PDF))
    const importer = startImporter()
    const { pages } = await importer.run('pdf', { name: 'clouds.pdf', file, dataFolder }, { name: 'clouds.pdf' })
    importer.close()
    writeFileSync(join(dataFolder, 'pages.json'), JSON.stringify(pages))
    try {
      renameSync(dataFolder, kept)
    } catch {
      // another worker was first
      return existsSync(kept) ? kept : dataFolder
    }
    return kept
  })()
  return read
}

/** Lays a lecture into a data folder: the four slides of the PDF, over and over for a longer one. @returns its id */
export async function seedLecture(db: Database, store: FileStore, title: string, language = 'en', slides = 4): Promise<string> {
  const folder = await readPages()
  const four = JSON.parse(readFileSync(join(folder, 'pages.json'), 'utf8')) as ImportedPage[]
  const pages = Array.from({ length: slides }, (_, i) => four[i % four.length]!)
  const from = folderStore(folder)
  for (const { picture, thumbnail } of four) for (const name of [picture, thumbnail]) await store.put(await from.read(name))
  const id = randomUUID()
  await createLecture(db, id, title, language, pages)
  return id
}

/** The same beside a server that runs on the folder. */
export async function seedFolder(dataFolder: string, title: string, language: string, slides = 4): Promise<string> {
  const db = await openDatabase(dataFolder)
  try {
    return await seedLecture(db, folderStore(dataFolder), title, language, slides)
  } finally {
    db.close()
  }
}
