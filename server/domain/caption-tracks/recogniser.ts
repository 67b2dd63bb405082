/**
 * Where an administrator can put a speech model. None ships with the app: `LECTERN_RECOGNISER` names a program that is started as
 * `PROGRAM --language TAG RECORDING.wav` (48 kHz, 16 bits, mono) and prints captions of the recording as WebVTT or SubRip.
 */

import { execFile } from 'node:child_process'
import type { ParsedCue } from '#core/captions/formats/webvtt/parse.ts'
import { message } from '#core/words/say.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { readCaptionFile } from './caption-files.ts'

const MOST_BYTES = 5_000_000
/** A model may be slower than speech, but not without end. */
const MOST_MS = 3 * 3600_000

/** @throws UserFacingError when the program cannot be run, fails, or prints no captions */
export async function recognise(program: string, path: string, language: string, signal: AbortSignal): Promise<ParsedCue[]> {
  const printed = await new Promise<Buffer>((resolve, reject) => {
    const options = {
      encoding: 'buffer' as const,
      maxBuffer: MOST_BYTES,
      timeout: MOST_MS,
      signal,
      killSignal: 'SIGKILL' as const,
    }
    execFile(program, ['--language', language, path], options, (error, stdout, stderr) => {
      if (!error) return resolve(stdout)
      if (signal.aborted) return reject(error)
      const last = stderr.toString('utf8').trim().split('\n').at(-1)?.slice(0, 200)
      reject(
        new UserFacingError(
          last
            ? message('The recogniser failed: {last}. Ask whoever looks after this Tidy Lectern.', { last })
            : message('The recogniser failed. Ask whoever looks after this Tidy Lectern.'),
          500,
        ),
      )
    })
  })
  try {
    return readCaptionFile('what the recogniser printed', printed).cues
  } catch {
    throw new UserFacingError(message('The recogniser printed no captions. Ask whoever looks after this Tidy Lectern.'), 500)
  }
}
