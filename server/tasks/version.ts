/** What must be the same on two machines that work for each other. */
import { createHash } from 'node:crypto'
import { ENGINE_VERSION } from '#core/audio/render/render.ts'
import { ALIGN_VERSION } from '#core/captions/align/align.ts'
import { SOUNDS_VERSION } from '#core/captions/spoken/heard-sounds.ts'
import { ENCODER_VERSION } from '#server/encode/segment.ts'
import type { Ffmpeg } from '#server/media/ffmpeg.ts'

/** Raise it when tasks are given or answered otherwise. */
const FORM = 1

/** @returns a short name; with another ffmpeg segments would be encoded otherwise, and could not be joined to those made here */
export async function tasksVersion(media: Ffmpeg): Promise<string> {
  const tool = (await media.run(['-version'])).toString().split('\n')[0]
  const all = [FORM, ENGINE_VERSION, ALIGN_VERSION, SOUNDS_VERSION, ENCODER_VERSION, tool]
  return createHash('sha256').update(JSON.stringify(all)).digest('hex').slice(0, 12)
}
