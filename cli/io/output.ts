/** Where results go: beside nothing that was given, whole or not at all, and to standard output for `-`. */

import { once } from 'node:events'
import { createReadStream } from 'node:fs'
import { realpath, rename, rm, stat, writeFile } from 'node:fs/promises'
import { basename, dirname, extname } from 'node:path'
import { message, say } from '#core/words/say.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { Usage } from './usage.ts'

export const STDOUT = '-'

/** A line for whoever called, or for what reads standard output. */
export const print = (line: string): void => void process.stdout.write(`${line}\n`)
/** A line beside a result that goes to standard output. */
export const printAside = (line: string): void => void process.stderr.write(`${line}\n`)

const realOf = (path: string) => realpath(path).catch(() => null)

/**
 * Looks before any work is done whether a result can be written there.
 *
 * @param inputs what was given: none of it is overwritten unasked
 * @throws UserFacingError when its folder is missing, it is a folder itself, or one of the inputs
 */
export async function readyOutput(path: string, inputs: readonly string[], overwrite = false): Promise<void> {
  if (path === STDOUT) return
  const folder = dirname(path)
  if (!(await stat(folder).catch(() => null))?.isDirectory())
    throw new UserFacingError(message('There is no folder “{folder}”. Make it first, or name another.', { folder }), 404)
  if ((await stat(path).catch(() => null))?.isDirectory())
    throw new UserFacingError(message('“{path}” is a folder. Say what the file in it is to be called.', { path }), 422)
  if (overwrite) return
  const real = await realOf(path)
  for (const input of inputs)
    if (real !== null && real === (await realOf(input)))
      throw new UserFacingError(
        message('“{path}” is what you gave; what comes of it would take its place. Name another file, or say --overwrite.', {
          path: basename(path),
        }),
        422,
      )
}

/** @returns the ending, "wav" for `-` when that is the first @throws Usage for one that is not among those that can be written */
export function endingOf<T extends string>(path: string, endings: readonly [T, ...T[]], usage: string): T {
  if (path === STDOUT) return endings[0]
  const ending = extname(path).slice(1).toLowerCase()
  const found = endings.find((known) => known === ending)
  if (!found)
    throw new Usage(
      `${say('“{name}” must end in {endings}: nothing else can be written.', { name: basename(path), endings: endings.map((known) => `.${known}`).join(', ') })}\n${usage}`,
    )
  return found
}

/** Written beside and renamed: an interrupted run leaves no half file under the wanted name. */
export async function writeOutput(path: string, write: (path: string) => Promise<unknown>): Promise<void> {
  const beside = `${path}.part`
  try {
    await write(beside)
    await rename(beside, path)
  } catch (error) {
    await rm(beside, { force: true })
    throw error
  }
}

/** Text to a file, or to standard output. */
export async function writeText(path: string, text: string): Promise<void> {
  if (path === STDOUT) process.stdout.write(text)
  else await writeOutput(path, (beside) => writeFile(beside, text))
}

/** A finished file to standard output. */
export async function pourOut(path: string): Promise<void> {
  for await (const piece of createReadStream(path)) if (!process.stdout.write(piece)) await once(process.stdout, 'drain')
}
