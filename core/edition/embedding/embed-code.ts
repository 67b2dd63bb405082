/** The code with which a watch page stands in another page. */
import { escapeUTF8 } from 'entities'

/** Room for a video of 16:9 and the controls under it, CSS pixels. */
const FRAME = { width: 960, height: 664 }
const CONTROLS_PX = 124

export interface Frame {
  width: number
  height: number
}

/** @param most the room that the other page has, CSS pixels; absent where it does not say. @returns a frame that keeps the form of the video */
export function frameWithin({
  width = FRAME.width,
  height = FRAME.height,
}: { [side in keyof Frame]?: number | undefined } = {}): Frame {
  const wide = Math.max(200, Math.min(FRAME.width, width, Math.floor(((height - CONTROLS_PX) * 16) / 9)))
  return { width: wide, height: Math.round((wide * 9) / 16) + CONTROLS_PX }
}

/**
 * @param address of the watch page
 * @param title of the lecture, which screen readers say of the frame
 * @see HTML Standard, §4.8.5 "The iframe element"
 */
export const embedCode = (address: string, title: string, { width, height }: Frame = frameWithin()): string =>
  `<iframe src="${escapeUTF8(address)}" title="${escapeUTF8(title)}" width="${width}" height="${height}" style="max-width: 100%; border: 0" allow="fullscreen; picture-in-picture" loading="lazy"></iframe>`
