/** Whether a sound file holds all that it says it holds. */

import { open } from 'node:fs/promises'
import { type Message, message } from '#core/words/say.ts'

/** What is not there of a file, and how to say it. */
export interface MissingSound {
  /** null where the file does not say how long it should be. */
  missingSeconds: number | null
  note: Message
}

const ESTIMATED = /Estimating duration from bitrate/
const DAMAGED =
  /Invalid data found|invalid residual|Packet corrupt|partial file|ended prematurely|Error while decoding|Header missing/
/** Rounding, and the frames that encoders put before and after. */
const TOLERANCE_SECONDS = 0.25
const TOLERANCE_SHARE = 0.01

/** What the media tool says that the file's own header says. A film's length is that of its pictures, so it tells nothing of its sound. */
function headerSeconds(messages: string): number | null {
  if (ESTIMATED.test(messages) || /Stream #0.*: Video: (?!.*attached pic)/.test(messages)) return null
  const match = /Duration: (\d+):(\d\d):(\d\d(?:\.\d+)?)/.exec(messages)
  return match ? Number(match[1]) * 3600 + Number(match[2]) * 60 + Number(match[3]) : null
}

/**
 * Bytes that a file should have by its outermost chunk: RIFF (WAV) and FORM (AIFF) say so in their first eight bytes. null for other files, and
 * where a program that wrote without knowing the end left the field open.
 */
function declaredBytes(head: Buffer): number | null {
  const kind = head.toString('latin1', 0, 4)
  const bytes = kind === 'RIFF' ? head.readUInt32LE(4) : kind === 'FORM' ? head.readUInt32BE(4) : 0
  return bytes === 0 || bytes >= 0xfffffff0 ? null : bytes + 8
}

/** RFC 3533, §6: the last page of a stream says that it is the last. */
const LAST_PAGE = 4
const TAIL_BYTES = 128 * 1024

async function isWithoutLastPage(path: string, size: number, head: Buffer): Promise<boolean> {
  if (head.toString('latin1', 0, 4) !== 'OggS') return false
  const file = await open(path, 'r')
  try {
    const tail = Buffer.alloc(Math.min(size, TAIL_BYTES))
    await file.read(tail, 0, tail.length, size - tail.length)
    const page = tail.lastIndexOf('OggS')
    return page < 0 || page + 6 > tail.length || (tail[page + 5]! & LAST_PAGE) === 0
  } finally {
    await file.close()
  }
}

/**
 * @param name as the person knows the file
 * @param messages of the media tool at its level `info`
 * @param seconds that came out of it
 * @returns null when nothing speaks against its being whole
 */
export async function missingSound(path: string, name: string, messages: string, seconds: number): Promise<MissingSound | null> {
  const file = await open(path, 'r')
  const head = Buffer.alloc(12)
  let size: number
  try {
    await file.read(head, 0, head.length, 0)
    size = (await file.stat()).size
  } finally {
    await file.close()
  }
  const bytes = declaredBytes(head)
  // a header of 44 bytes hardly counts beside the sound
  const wanted = bytes !== null && bytes > size ? (seconds * bytes) / size : headerSeconds(messages)
  if (wanted !== null && wanted - seconds > Math.max(TOLERANCE_SECONDS, TOLERANCE_SHARE * wanted))
    return {
      missingSeconds: wanted - seconds,
      note: message('“{name}” ends early: {seconds} of {wanted} seconds are there. Copy or export it again if you can.', {
        name,
        seconds: Number(seconds.toFixed(1)),
        wanted: Number(wanted.toFixed(1)),
      }),
    }
  if (DAMAGED.test(messages) || (await isWithoutLastPage(path, size, head)))
    return {
      missingSeconds: null,
      note: message(
        '“{name}” is damaged or ends early: {seconds} seconds of it could be read. Listen to it, and export it again if something is missing.',
        { name, seconds: Number(seconds.toFixed(1)) },
      ),
    }
  return null
}
