/** What is written into the file of a footage, so that it can be found again by itself: with which take it was recorded, and when in it. */
import { FilePathSource, Input, MP4 } from 'mediabunny'
import { FOOTAGE_KINDS } from '#core/model/moving/footage.ts'
import { FOOTAGE_CODECS, type FootageCodec } from '#core/recording/footage-pieces.ts'
import { z } from '#core/zod.ts'

const whole = z.number().int().nonnegative()
const codecs = Object.keys(FOOTAGE_CODECS) as [FootageCodec, ...FootageCodec[]]

export const FootageTags = z.object({
  id: z.string(),
  takeId: z.string(),
  kind: z.enum(FOOTAGE_KINDS),
  codec: z.enum(codecs),
  width: whole,
  height: whole,
  isPractice: z.boolean(),
  /** Sample of the take at which its first picture was taken. */
  start: whole,
})
export type FootageTags = z.infer<typeof FootageTags>

const SIGN = 'LECTERN_FOOTAGE '

/** As the comment of a film. */
export const footageComment = (tags: FootageTags) => `${SIGN}${JSON.stringify(FootageTags.parse(tags))}`

/** @returns what a film says of itself, and how long it is; null for one that is no footage, or cannot be read */
export async function footageTagsOf(path: string): Promise<(FootageTags & { seconds: number }) | null> {
  const input = new Input({ source: new FilePathSource(path), formats: [MP4] })
  try {
    const { comment = '' } = await input.getMetadataTags()
    if (!comment.startsWith(SIGN)) return null
    return { ...FootageTags.parse(JSON.parse(comment.slice(SIGN.length))), seconds: await input.computeDuration() }
  } catch {
    return null
  } finally {
    input.dispose()
  }
}
