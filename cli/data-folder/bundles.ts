/** `lectern export` and `lectern import`: a lecture out of the data folder as a bundle, and into it. */

import { randomUUID } from 'node:crypto'
import { createWriteStream } from 'node:fs'
import { stat } from 'node:fs/promises'
import { basename, resolve } from 'node:path'
import { Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import { parseArgs } from 'node:util'
import { message, say } from '#core/words/say.ts'
import { configFrom } from '#server/config/config.ts'
import { closeContext, openContext } from '#server/context/context.ts'
import { readBundle } from '#server/domain/lectures/bring-bundle.ts'
import { readShelf } from '#server/domain/lectures/read.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { bundleFiles } from '#server/export/bundle.ts'
import { addJob } from '#server/queue/queue.ts'
import { zipped } from '#server/storage/zip-stream.ts'
import type { Workers } from '#server/workers/pool.ts'
import { readyOutput, STDOUT, writeOutput } from '../io/output.ts'
import { orUsage, Usage, usageOf } from '../io/usage.ts'

const EXPORT = usageOf('lectern export TITLE-OR-ID -o OUT.lectern.zip|- [--json]')
const IMPORT = usageOf('lectern import BUNDLE.lectern.zip [--json]')

/** Beside an app that may run on the same folder: it is read and added to, and nothing in it is begun. */
const open = (workers?: Workers) => openContext(configFrom(process.env, ''), workers)

export async function exportBundle(args: string[], workers?: Workers) {
  const options = { output: { type: 'string', short: 'o' }, json: { type: 'boolean', default: false } } as const
  const { values, positionals } = orUsage(args, () => parseArgs({ args, allowPositionals: true, options }), EXPORT)
  const [wanted, ...more] = positionals
  const { output } = values
  if (!wanted || more.length > 0 || !output) throw new Usage(EXPORT)
  if (output === STDOUT && values.json)
    throw new Usage(`${say('The bundle and --json cannot both go to standard output.')}\n${EXPORT}`)
  await readyOutput(output, [])
  const context = await open(workers)
  try {
    const shelf = await readShelf(context.db.read)
    const found = shelf.filter((lecture) => lecture.id === wanted || lecture.title === wanted)
    if (found.length !== 1) {
      const titles = shelf.map((lecture) => `“${lecture.title}” (${lecture.id})`).join(', ')
      throw new UserFacingError(
        found.length === 0
          ? message('There is no lecture “{wanted}” in {dataFolder}. There are: {titles}.', {
              wanted,
              dataFolder: context.config.dataFolder,
              titles: titles || 'none',
            })
          : message('There are {found} lectures called “{wanted}”. Say which by its id: {ids}.', {
              found: found.length,
              wanted,
              ids: found.map((l) => l.id).join(', '),
            }),
        404,
      )
    }
    const files = await bundleFiles(context, found[0]!.id)
    if (output === STDOUT) {
      await pipeline(Readable.from(zipped(files)), process.stdout, { end: false })
      return
    }
    await writeOutput(output, (beside) => pipeline(Readable.from(zipped(files)), createWriteStream(beside)))
    process.stdout.write(
      values.json ? `${JSON.stringify({ output, files: files.length })}\n` : `${output}: ${files.length} files\n`,
    )
  } finally {
    await closeContext(context)
  }
}

export async function importBundle(args: string[], workers?: Workers) {
  const options = { json: { type: 'boolean', default: false } } as const
  const { values, positionals } = orUsage(args, () => parseArgs({ args, allowPositionals: true, options }), IMPORT)
  const [bundle, ...more] = positionals
  if (!bundle || more.length > 0) throw new Usage(IMPORT)
  if (!(await stat(bundle).catch(() => null))?.isFile())
    throw new UserFacingError(message('There is no file “{bundle}”. Check its name and folder.', { bundle }), 404)
  const context = await open(workers)
  try {
    const id = randomUUID()
    await readBundle(
      context,
      (kind, lectureId, payload) => addJob(context, kind, lectureId, payload),
      id,
      { name: basename(bundle), path: resolve(bundle) },
      () => {},
      new AbortController().signal,
    )
    process.stdout.write(
      values.json
        ? `${JSON.stringify({ lectureId: id })}\n`
        : `${say('“{name}” is on the shelf.', { name: basename(bundle) })}\n`,
    )
  } finally {
    // its clips are rendered by the app: within seconds when it runs, else when it is opened next
    await closeContext(context)
  }
}
