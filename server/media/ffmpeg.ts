/** Runs the media tool (the programs ffmpeg and ffprobe): argument lists only, named formats, bounded time, low priority. */

import { existsSync } from 'node:fs'
import { Readable } from 'node:stream'
import { message } from '#core/words/say.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { launch } from './launch/launch.ts'

export interface Ffmpeg {
  /**
   * @param args after the safe beginning that is the same for every call
   * @param input bytes for the program's standard input, whole or piece by piece
   * @param onOutput takes its standard output piece by piece, which then is not gathered
   * @param onMessage takes what it says of its work, as much as `-loglevel` in `args` lets it say
   * @returns its standard output
   * @throws UserFacingError when the program is missing; Error with the end of its messages when it fails
   */
  run(
    args: readonly string[],
    options?: {
      input?: Uint8Array | AsyncIterable<Uint8Array>
      onOutput?: (piece: Buffer) => void
      onMessage?: (text: string) => void
      signal?: AbortSignal
      timeoutSeconds?: number
    },
  ): Promise<Buffer>
  /** The same for the program that tells what a file is (ffprobe), which stands beside it. @returns what it writes */
  probe(args: readonly string[], options?: { signal?: AbortSignal }): Promise<string>
}

const LONGEST_OUTPUT = 4 * 1024 ** 3
/** What a file says of itself stands at its beginning or end. */
const PROBE_S = 60

/** What went wrong, when it can be told in a sentence. */
function inWords(error: unknown): unknown {
  if ((error as NodeJS.ErrnoException).code !== 'ENOENT') return error
  return new UserFacingError(message('The program ffmpeg was not found. Install it, or say where it is in LECTERN_FFMPEG.'), 500)
}

/** @param program path or name of ffmpeg */
export const ffmpegAt = (program: string): Ffmpeg => ({
  run: (args, options) =>
    runProgram(program, ['-hide_banner', '-loglevel', 'error', '-y', ...(options?.input ? [] : ['-nostdin']), ...args], options),
  probe: async (args, options) => {
    const named = program.replace(/ffmpeg([^/]*)$/, 'ffprobe$1')
    // whoever names another program for one of the two may have only that
    const beside = named.includes('/') && !existsSync(named) ? 'ffprobe' : named
    return (
      await runProgram(beside, ['-hide_banner', '-loglevel', 'error', ...args], { ...options, timeoutSeconds: PROBE_S })
    ).toString()
  },
})

async function runProgram(
  program: string,
  args: readonly string[],
  { input, onOutput, onMessage, signal, timeoutSeconds = 600 }: NonNullable<Parameters<Ffmpeg['run']>[1]> = {},
): Promise<Buffer> {
  signal?.throwIfAborted()
  /** Of our own side: what gives the input or takes the output. */
  let ownError: unknown = null
  let kill = () => {}
  const pieces = input && Symbol.asyncIterator in input ? Readable.from(input) : null
  pieces?.on('error', (error) => {
    ownError ??= error
    kill()
  })
  // asked for at once: what fails before the program runs is heard as well
  pieces?.read(0)
  const child = await launch(program, args, { hasInput: input !== undefined }).catch((error) => {
    pieces?.destroy()
    throw inWords(error)
  })
  kill = child.kill
  if (signal?.aborted || ownError) kill()
  const out: Buffer[] = []
  let bytes = 0
  let messages = ''
  const timer = setTimeout(kill, timeoutSeconds * 1000)
  signal?.addEventListener('abort', kill, { once: true })
  child.stdout.on('data', (piece: Buffer) => {
    if (onOutput) {
      try {
        onOutput(piece)
      } catch (error) {
        ownError ??= error
        kill()
      }
      return
    }
    bytes += piece.length
    if (bytes > LONGEST_OUTPUT) kill()
    else out.push(piece)
  })
  child.stderr.on('data', (piece: Buffer) => {
    messages = (messages + piece.toString()).slice(-4000)
    onMessage?.(piece.toString())
  })
  if (pieces) pieces.pipe(child.stdin!)
  else child.stdin?.end(input as Uint8Array)
  try {
    const code = await child.ended.catch((error) => {
      throw inWords(error)
    })
    signal?.throwIfAborted()
    if (ownError) throw ownError
    if (code === 0) return Buffer.concat(out)
    const full = /No space left on device|Disk quota exceeded|File too large/.test(messages)
    throw Object.assign(new Error(`ffmpeg ended with ${code}: ${messages.trim()}`), full ? { code: 'ENOSPC' } : {})
  } finally {
    clearTimeout(timer)
    signal?.removeEventListener('abort', kill)
    pieces?.destroy()
    child.stdin?.destroy()
  }
}
