/** The folder that holds everything: whether it can be used, and that one app alone works in it. */

import { randomUUID } from 'node:crypto'
import { mkdirSync, rmSync, statSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { pathToFileURL } from 'node:url'
import { createClient, LibsqlError } from '@libsql/client'
import { message } from '#core/words/say.ts'
import { isDiskFull, UserFacingError } from '#server/errors/user-facing-error.ts'

/** A file as SQLite's addresses name it, whatever signs are in its path. */
export const databaseUrl = (path: string) => pathToFileURL(path).href

/** @throws UserFacingError when it is no folder, or nothing can be written in it */
export function readyFolder(folder: string) {
  const probe = join(folder, `.probe-${randomUUID()}`)
  try {
    mkdirSync(folder, { recursive: true })
    writeFileSync(probe, '')
    rmSync(probe)
  } catch (error) {
    const { code } = error as NodeJS.ErrnoException
    const isFile = code === 'ENOTDIR' || code === 'EEXIST' || statSync(folder, { throwIfNoEntry: false })?.isFile()
    if (isFile)
      throw new UserFacingError(
        message('“{folder}” is a file and no folder. Say where your lectures are in LECTERN_DATA.', { folder }),
        500,
      )
    if (isDiskFull(error)) throw error
    throw new UserFacingError(
      message(
        'Nothing can be written in “{folder}” ({code}). Give yourself the right to, or choose another folder with LECTERN_DATA.',
        { folder, code: code ?? '' },
      ),
      500,
    )
  }
}

export interface FolderLock {
  release(): void
}

/**
 * Keeps every other app out of a data folder for as long as this one runs. SQLite's own lock on a file of nothing else: the system lets it go
 * when the process ends, however it ends, so there is never one that was left behind.
 *
 * @throws UserFacingError when another app has it
 */
export async function lockFolder(folder: string): Promise<FolderLock> {
  readyFolder(folder)
  const client = createClient({ url: databaseUrl(join(folder, 'lock.sqlite')), timeout: 0 })
  try {
    const held = await client.transaction('write')
    return {
      release() {
        held.close()
        client.close()
      },
    }
  } catch (error) {
    client.close()
    if (error instanceof LibsqlError && error.code.startsWith('SQLITE_BUSY'))
      throw new UserFacingError(
        message('Tidy Lectern is open already on “{folder}”. Use that one, or choose another folder with LECTERN_DATA.', {
          folder,
        }),
        500,
        { isHeld: true },
      )
    throw error
  }
}
