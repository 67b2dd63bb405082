/** The pieces of a lecture as files of their own: sounds and pictures of its slides. */

import { rm } from 'node:fs/promises'
import sharp from 'sharp'
import { keptTake } from '#core/model/kept-take.ts'
import type { Lecture } from '#core/model/lecture.ts'
import type { Slide } from '#core/model/slide.ts'
import { schedule } from '#core/timing/schedule.ts'
import { message } from '#core/words/say.ts'
import type { AppContext } from '#server/context/context.ts'
import { UserFacingError } from '#server/errors/user-facing-error.ts'
import { safeName, type ZippedFile } from '#server/storage/zip-stream.ts'

export const SOUND_FORMATS = ['wav', 'flac', 'mp3', 'm4a'] as const
export type SoundFormat = (typeof SOUND_FORMATS)[number]

/** Arguments of the media tool for a kind of file. */
export const SOUND_ENCODERS: Record<SoundFormat, string[]> = {
  wav: ['-c:a', 'pcm_s16le', '-f', 'wav'],
  flac: ['-c:a', 'flac', '-f', 'flac'],
  mp3: ['-c:a', 'libmp3lame', '-q:a', '2', '-f', 'mp3'],
  m4a: ['-c:a', 'aac', '-b:a', '128k', '-movflags', '+faststart', '-f', 'ipod'],
}

/** "07 Emptying the gauge": sorts as the lecture does. */
const pieceName = (slide: Slide, place: number, of: number) =>
  safeName(`${String(place).padStart(String(of).length < 2 ? 2 : String(of).length, '0')} ${slide.title || 'Slide'}`)

function shown(lecture: Lecture) {
  const owners = new Map(lecture.slides.map((slide) => [slide.id, slide]))
  return schedule(lecture).slides.map((scheduled, i) => ({ slide: owners.get(scheduled.slideId)!, place: i + 1 }))
}

/** The tidied sound of every slide that has one. */
export async function* soundPieces(context: AppContext, lecture: Lecture, format: SoundFormat): AsyncGenerator<ZippedFile> {
  const all = shown(lecture)
  const spoken = all.filter(({ slide }) => keptTake(slide)?.clip)
  if (spoken.length === 0)
    throw new UserFacingError(message('No slide has sound yet. Record one, then take the sounds away.'), 422)
  for (const { slide, place } of spoken) {
    const out = context.store.scratchPath(`.${format}`)
    try {
      await context.store.withLocalFile(keptTake(slide)!.clip!.sound, (clip) => {
        const input = ['-protocol_whitelist', 'file', '-f', 'flac', '-i', clip]
        return context.media.run([...input, '-metadata', `title=${slide.title}`, ...SOUND_ENCODERS[format], out])
      })
      yield { path: `${pieceName(slide, place, all.length)}.${format}`, content: { file: out } }
    } finally {
      await rm(out, { force: true })
    }
  }
}

export const PICTURE_FORMATS = ['png', 'jpeg'] as const
export type PictureFormat = (typeof PICTURE_FORMATS)[number]

/** Every picture of every slide. */
export async function* picturePieces(context: AppContext, lecture: Lecture, format: PictureFormat): AsyncGenerator<ZippedFile> {
  const all = shown(lecture)
  for (const { slide, place } of all) {
    for (const [s, step] of slide.steps.entries()) {
      const path = `${pieceName(slide, place, all.length)}${slide.steps.length > 1 ? ` (${s + 1})` : ''}.${format === 'png' ? 'png' : 'jpg'}`
      const { store } = context
      const asJpeg = async () =>
        new Uint8Array(
          await sharp(await store.read(step.picture))
            .jpeg({ quality: 90 })
            .toBuffer(),
        )
      yield { path, content: format === 'png' ? { store, name: step.picture } : await asJpeg() }
    }
  }
}
