/** `lectern store`: what is in a store of files elsewhere; `--home` brings everything back to the data folder. */

import { parseArgs } from 'node:util'
import { message, say } from '#core/words/say.ts'
import { configFrom } from '#server/config/config.ts'
import { openDatabase } from '#server/db/database.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { bringHome } from '#server/storage/bucket/bring-home.ts'
import { openStore } from '#server/storage/bucket/open-store.ts'
import { lockFolder } from '#server/storage/data-folder.ts'
import { print, printAside } from '../io/output.ts'
import { orUsage, Usage, usageOf } from '../io/usage.ts'

const USAGE = usageOf('lectern store [--home] [--json]')
const TOLD_EVERY = 100

const megabytes = (bytes: number) => Math.round(bytes / 1e6)

export async function store(args: string[]) {
  const options = { home: { type: 'boolean', default: false }, json: { type: 'boolean', default: false } } as const
  const { values, positionals } = orUsage(args, () => parseArgs({ args, allowPositionals: true, options }), USAGE)
  if (positionals.length > 0) throw new Usage(USAGE)
  const config = configFrom(process.env, '')
  if (!config.store)
    throw new UserFacingError(
      message('All files are in “{dataFolder}”: no store elsewhere is set up in LECTERN_STORE.', {
        dataFolder: config.dataFolder,
      }),
      404,
    )
  // an app that runs would send away again what is brought
  const lock = values.home ? await lockFolder(config.dataFolder) : null
  const db = await openDatabase(config.dataFolder)
  try {
    const opened = await openStore(config, db)
    if (!opened.sending) return
    const { address } = opened.sending
    if (values.home) {
      const brought = await bringHome(opened.store, (done, all) => {
        if (!values.json && done % TOLD_EVERY === 0) printAside(say('{done} of {all} files', { done, all }))
      })
      print(
        values.json
          ? JSON.stringify({ address, ...brought })
          : say(
              'All files are in “{dataFolder}” again; {brought} were brought from {address}, where they stay until you remove them. Start without LECTERN_STORE from now on.',
              { dataFolder: config.dataFolder, brought: brought.brought, address },
            ),
      )
      return
    }
    const here = await opened.store.local.listed()
    const { files, bytes } = await opened.store.sent.sum()
    const waiting = (await opened.store.sent.missing(here.map(({ name }) => name))).length
    const localBytes = here.reduce((sum, file) => sum + file.bytes, 0)
    print(
      values.json
        ? JSON.stringify({ address, files, bytes, waiting, localFiles: here.length, localBytes })
        : say(
            '{address}: {files} files, {megabytes} MB. On this machine: {localFiles} files, {localMegabytes} MB, of which {waiting} are not in the store yet.',
            {
              address,
              files,
              megabytes: megabytes(bytes),
              localFiles: here.length,
              localMegabytes: megabytes(localBytes),
              waiting,
            },
          ),
    )
  } finally {
    db.close()
    lock?.release()
  }
}
