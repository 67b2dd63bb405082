/** `lectern backup` and `lectern restore`: copies of all lectures, made while the app runs, and lectures of a copy. */

import { parseArgs } from 'node:util'
import { say } from '#core/words/say.ts'
import { configFrom } from '#server/config/config.ts'
import { keepBackups, listBackups, makeBackup, restoreBackup } from '#server/maintenance/backup.ts'
import { print, printAside } from '../io/output.ts'
import { orUsage, Usage, usageOf } from '../io/usage.ts'

const BACKUP = usageOf('lectern backup FOLDER [--keep N] [--json]')
const RESTORE = usageOf('lectern restore FOLDER [--at NAME] [--list] [--json]')

const megabytes = (bytes: number) => Math.round(bytes / 1e6)

function oneFolder(positionals: readonly string[], usage: string): string {
  const [folder, ...more] = positionals
  if (!folder || more.length > 0) throw new Usage(usage)
  return folder
}

export async function backup(args: string[]) {
  const options = { keep: { type: 'string' }, json: { type: 'boolean', default: false } } as const
  const { values, positionals } = orUsage(args, () => parseArgs({ args, allowPositionals: true, options }), BACKUP)
  const target = oneFolder(positionals, BACKUP)
  const keep = values.keep === undefined ? null : Number(values.keep)
  if (keep !== null && !(Number.isInteger(keep) && keep >= 1))
    throw new Usage(`${say('--keep takes how many backups stay: a whole number from 1 on.')}\n${BACKUP}`)
  const { dataFolder, store } = configFrom(process.env, '')
  const made = await makeBackup(dataFolder, target, () => {}, store)
  const gone = keep === null ? [] : await keepBackups(target, keep)
  if (!values.json) for (const name of gone) printAside(say('{name} was let go.', { name }))
  print(
    values.json
      ? JSON.stringify({ ...made, gone })
      : say('Backup {name}: {files} files, {megabytes} MB, of which {copiedFiles} files, {copiedMegabytes} MB, are new.', {
          name: made.name,
          files: made.files,
          megabytes: megabytes(made.bytes),
          copiedFiles: made.copiedFiles,
          copiedMegabytes: megabytes(made.copiedBytes),
        }),
  )
}

export async function restore(args: string[]) {
  const options = {
    at: { type: 'string' },
    list: { type: 'boolean', default: false },
    json: { type: 'boolean', default: false },
  } as const
  const { values, positionals } = orUsage(args, () => parseArgs({ args, allowPositionals: true, options }), RESTORE)
  const target = oneFolder(positionals, RESTORE)
  if (values.list) {
    const names = await listBackups(target)
    if (values.json) return print(JSON.stringify({ backups: names }))
    for (const name of names) print(name)
    if (names.length === 0) print(say('There is no backup in “{target}”.', { target }))
    return
  }
  const { dataFolder } = configFrom(process.env, '')
  const { madeAt, files, bytes } = await restoreBackup(target, dataFolder, values.at ?? null)
  print(
    values.json
      ? JSON.stringify({ dataFolder, madeAt, files: files.length, bytes })
      : say('“{dataFolder}” is as it was at {madeAt}: {files} files, {megabytes} MB.', {
          dataFolder,
          madeAt,
          files: files.length,
          megabytes: megabytes(bytes),
        }),
  )
}
