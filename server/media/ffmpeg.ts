/** Runs the media tool (the programs ffmpeg and ffprobe): argument lists only, named formats, bounded time, low priority. */

import { spawn } from 'node:child_process'
import { setPriority } from 'node:os'
import { Readable } from 'node:stream'
import { message } from '#core/words/say.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'

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
}

const LONGEST_OUTPUT = 4 * 1024 ** 3

/** @param program path or name of ffmpeg */
export function ffmpegAt(program: string): Ffmpeg {
  return {
    run(args, { input, onOutput, onMessage, signal, timeoutSeconds = 600 } = {}) {
      return new Promise((resolve, reject) => {
        if (signal?.aborted) return reject(signal.reason)
        const child = spawn(program, ['-hide_banner', '-loglevel', 'error', '-y', ...(input ? [] : ['-nostdin']), ...args], {
          stdio: [input ? 'pipe' : 'ignore', 'pipe', 'pipe'],
        })
        const out: Buffer[] = []
        let bytes = 0
        let messages = ''
        /** Of our own side: what gives the input or takes the output. */
        let ownError: unknown = null
        const kill = () => child.kill('SIGKILL')
        const timer = setTimeout(kill, timeoutSeconds * 1000)
        signal?.addEventListener('abort', kill, { once: true })
        child.on('spawn', () => {
          try {
            if (child.pid) setPriority(child.pid, 10)
          } catch {
            // it may have ended already
          }
        })
        child.stdout?.on('data', (piece: Buffer) => {
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
        child.stderr?.on('data', (piece: Buffer) => {
          messages = (messages + piece.toString()).slice(-4000)
          onMessage?.(piece.toString())
        })
        child.on('error', (error: NodeJS.ErrnoException) => {
          clearTimeout(timer)
          reject(
            error.code === 'ENOENT'
              ? new UserFacingError(
                  message('The program ffmpeg was not found. Install it, or say where it is in LECTERN_FFMPEG.'),
                  500,
                )
              : error,
          )
        })
        child.on('close', (code) => {
          clearTimeout(timer)
          signal?.removeEventListener('abort', kill)
          if (signal?.aborted) return reject(signal.reason)
          if (ownError) return reject(ownError)
          if (code === 0) return resolve(Buffer.concat(out))
          const full = /No space left on device|Disk quota exceeded|File too large/.test(messages)
          reject(Object.assign(new Error(`ffmpeg ended with ${code}: ${messages.trim()}`), full ? { code: 'ENOSPC' } : {}))
        })
        child.stdin?.on('error', () => {}) // a killed child closes its input; its end is told above
        if (input && Symbol.asyncIterator in input) {
          const pieces = Readable.from(input)
          pieces.on('error', (error) => {
            ownError ??= error
            kill()
          })
          child.on('close', () => pieces.destroy())
          pieces.pipe(child.stdin!)
        } else child.stdin?.end(input)
      })
    },
  }
}
