/** The teacher's small picture in a corner of the slide: where it is seen, and how it looks. */
import { type Message, message } from '#core/words/say.ts'
import { z } from '../../zod.ts'

export const CORNERS = ['top-left', 'top-right', 'bottom-left', 'bottom-right'] as const
export const CORNER_WORDS: Record<(typeof CORNERS)[number], Message> = {
  'top-left': message('top left'),
  'top-right': message('top right'),
  'bottom-left': message('bottom left'),
  'bottom-right': message('bottom right'),
}

/** Height as a share of the slide's. */
export const SMALL_PICTURE_SIZES = { small: 0.2, medium: 0.28, large: 0.38 } as const
export type SmallPictureSize = keyof typeof SMALL_PICTURE_SIZES

/** Its distance from the edges, as a share of the slide's height. */
export const SMALL_PICTURE_MARGIN = 0.035

/** How round the corners of a square one are, as a share of its side. */
export const SQUARE_CORNER = 0.09

/** Common practice, no published source: cameras are some 30 to 150 ms late; sound that goes the longer way may be so too. */
export const LATE_MS = { early: 300, most: 500 }

export const SmallPicture = z.object({
  /** On all slides, on the first and the last one only, or on none. */
  shown: z.enum(['everywhere', 'first-and-last', 'nowhere']).default('everywhere'),
  corner: z.enum(CORNERS).default('bottom-right'),
  size: z.enum(Object.keys(SMALL_PICTURE_SIZES) as [SmallPictureSize, ...SmallPictureSize[]]).default('medium'),
  edge: z.enum(['round', 'square']).default('round'),
  /** As in a mirror. */
  isMirrored: z.boolean().default(false),
  /** By how much the camera gave its pictures later than the microphone its sound, milliseconds: cameras differ, and none says it. */
  lateMs: z.number().int().min(-LATE_MS.early).max(LATE_MS.most).default(0),
})
export type SmallPicture = z.infer<typeof SmallPicture>
export const DEFAULT_SMALL_PICTURE: SmallPicture = SmallPicture.parse({})

/** What holds for one slide instead. */
export const SmallPictureException = z.object({
  isShown: z.boolean().optional(),
  corner: SmallPicture.shape.corner.unwrap().optional(),
  size: SmallPicture.shape.size.unwrap().optional(),
})
export type SmallPictureException = z.infer<typeof SmallPictureException>

/**
 * @param place of the slide among those that are shown, from 0
 * @returns how the picture is shown on a slide; null where it is not
 */
export function smallPictureOn(
  settings: SmallPicture,
  exception: SmallPictureException | null,
  place: { index: number; count: number },
): SmallPicture | null {
  const isEnd = place.index === 0 || place.index === place.count - 1
  const isShown = exception?.isShown ?? (settings.shown === 'everywhere' || (settings.shown === 'first-and-last' && isEnd))
  if (!isShown) return null
  return { ...settings, corner: exception?.corner ?? settings.corner, size: exception?.size ?? settings.size }
}
