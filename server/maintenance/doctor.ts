/** Looks whether all is well with a data folder and with what the app needs: each finding says what is wrong and what to do. */
import { execFile } from 'node:child_process'
import { readdir, statfs } from 'node:fs/promises'
import { join } from 'node:path'
import { promisify } from 'node:util'
import { createClient } from '@libsql/client'
import { drizzle } from 'drizzle-orm/libsql'
import { type Message, message } from '#core/words/say.ts'
import type { Config } from '#server/config/config.ts'
import type { StoreSetting } from '#server/config/store-setting.ts'
import * as schema from '#server/db/schema.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { openStoreToRead } from '#server/storage/bucket/open-store.ts'
import { databaseUrl, readyFolder } from '#server/storage/data-folder.ts'
import { sha256OfStream } from '#server/storage/file-hash.ts'
import { whoUses } from './file-owners.ts'
import { usedFiles } from './used-files.ts'

/** `look`: it works, and somebody should know; `fault`: something does not work or is lost. */
export interface DoctorFinding {
  state: 'ok' | 'look' | 'fault'
  finding: Message
}

const LITTLE_BYTES = 2e9
/** Without them no edition can be made. */
const ENCODERS = ['libx264', 'aac', 'flac']
const MOST_NAMED = 5

const run = promisify(execFile)
const ok = (finding: Message): DoctorFinding => ({ state: 'ok', finding })
const look = (finding: Message): DoctorFinding => ({ state: 'look', finding })
const fault = (finding: Message): DoctorFinding => ({ state: 'fault', finding })

async function mediaTool({ ffmpeg }: Config): Promise<DoctorFinding> {
  try {
    const { stdout } = await run(ffmpeg, ['-hide_banner', '-encoders'])
    const missing = ENCODERS.filter((name) => !new RegExp(`^ \\S+ ${name}\\b`, 'm').test(stdout))
    return missing.length === 0
      ? ok(message('ffmpeg is there, with all that editions need'))
      : fault(
          message('ffmpeg lacks {missing}: no edition can be made. Install ffmpeg from Debian.', { missing: missing.join(', ') }),
        )
  } catch {
    return fault(message('The program ffmpeg was not found. Install it, or say where it is in LECTERN_FFMPEG.'))
  }
}

async function disk(folder: string): Promise<DoctorFinding> {
  const { bavail, bsize } = await statfs(folder)
  const megabytes = Math.round((bavail * bsize) / 1e6)
  return bavail * bsize < LITTLE_BYTES
    ? look(
        message('Only {megabytes} MB are free on the disk of the data folder. Free some before you record for long.', {
          megabytes,
        }),
      )
    : ok(message('{megabytes} MB are free on the disk of the data folder', { megabytes }))
}

async function database(path: string): Promise<DoctorFinding> {
  const client = createClient({ url: databaseUrl(path), timeout: 5000 })
  try {
    const { rows } = await client.execute('PRAGMA integrity_check')
    const strays = await client.execute('PRAGMA foreign_key_check')
    if (rows[0]?.[0] !== 'ok')
      return fault(
        message('The database is damaged: {damage}. Stop the app, and go back to a backup with ./lectern restore.', {
          damage: String(rows[0]?.[0]),
        }),
      )
    return strays.rows.length === 0
      ? ok(message('The database is whole'))
      : fault(
          message(
            '{count, plural, one {One row of the database belongs to nothing} other {# rows of the database belong to nothing}}. Go back to a backup with ./lectern restore.',
            {
              count: strays.rows.length,
            },
          ),
        )
  } finally {
    client.close()
  }
}

async function storeElsewhere(setting: StoreSetting): Promise<DoctorFinding> {
  const { openBucket } = await import('#server/storage/bucket/bucket.ts')
  const bucket = openBucket(setting)
  try {
    await bucket.check()
    return ok(message('The store of files {address} answers', { address: setting.address }))
  } finally {
    bucket.close()
  }
}

/** @param all whether each file is read, and not only looked for */
async function files(config: Config, all: boolean): Promise<DoctorFinding[]> {
  // looked at as it is: whoever only looks changes nothing
  const client = createClient({ url: databaseUrl(join(config.dataFolder, 'lectern.sqlite')), timeout: 5000 })
  const read = drizzle(client, { schema })
  try {
    const store = await openStoreToRead(config, read)
    const [used, there, laid] = [await usedFiles(read), new Set(await store.all()), await store.trash.all()]
    const missing = [...used].filter((name) => !there.has(name))
    const damaged: string[] = []
    if (all)
      for (const name of there) if (used.has(name) && (await sha256OfStream(store.stream(name))) !== name) damaged.push(name)
    const stray = [...there].filter((name) => !used.has(name)).length
    const named = async (names: string[]) =>
      (await Promise.all(names.slice(0, MOST_NAMED).map((name) => whoUses(read, name))))
        .map((who, i) => `${who} (${names[i]!.slice(0, 12)}…)`)
        .join('; ')
    const found: DoctorFinding[] = []
    const inTrash = missing.filter((name) => laid.has(name))
    const lost = missing.filter((name) => !laid.has(name))
    if (inTrash.length > 0)
      found.push(
        look(
          message(
            '{count, plural, one {One file that is needed lies in the trash of the data folder. It is brought back when the app is opened.} other {# files that are needed lie in the trash of the data folder. They are brought back when the app is opened.}}',
            { count: inTrash.length },
          ),
        ),
      )
    if (lost.length > 0)
      found.push(
        fault(
          message(
            '{count, plural, one {One file is missing} other {# files are missing}}: {named}. Make a folder of a backup with ./lectern restore, and take it from there.',
            { count: lost.length, named: await named(lost) },
          ),
        ),
      )
    if (damaged.length > 0)
      found.push(
        fault(
          message(
            '{count, plural, one {One file is not what was stored} other {# files are not what was stored}}: {named}. The disk may be failing: copy the folder elsewhere, and take what is damaged from a backup.',
            { count: damaged.length, named: await named(damaged) },
          ),
        ),
      )
    if (found.length === 0)
      found.push(
        all
          ? ok(message('All {count} files are there and are what was stored', { count: used.size }))
          : ok(message('All {count} files are there', { count: used.size })),
      )
    if (stray > 0)
      found.push(
        look(
          message(
            '{count, plural, one {One file belongs to nothing} other {# files belong to nothing}}; what does so for a day is laid in the trash when the app is opened.',
            {
              count: stray,
            },
          ),
        ),
      )
    return found
  } finally {
    client.close()
  }
}

/** @param all whether the content of each file is compared with its name, which reads everything */
export async function examine(config: Config, all: boolean): Promise<DoctorFinding[]> {
  const found: DoctorFinding[] = [await mediaTool(config)]
  const inWords = (error: unknown) => {
    if (error instanceof UserFacingError) found.push(fault(error.said))
    else throw error
  }
  const { dataFolder } = config
  const isThere = (await readdir(dataFolder).catch((): string[] => [])).includes('lectern.sqlite')
  if (!isThere) {
    found.push(look(message('There are no lectures in “{dataFolder}”. Say where they are in LECTERN_DATA.', { dataFolder })))
    return found
  }
  try {
    readyFolder(dataFolder)
    found.push(await disk(dataFolder))
    // what else is wrong is told all the same
    if (config.store) await storeElsewhere(config.store).then((finding) => found.push(finding), inWords)
    const whole = await database(join(dataFolder, 'lectern.sqlite')).catch((error) =>
      fault(message('The database cannot be read: {reason}.', { reason: (error as Error).message })),
    )
    found.push(whole)
    if (whole.state === 'ok') found.push(...(await files(config, all)))
  } catch (error) {
    inWords(error)
  }
  return found
}
