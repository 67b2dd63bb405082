/**
 * Captions as the browser's own text tracks, for where the page cannot draw them: a picture in the picture, and the full screen of browsers that
 * know it for videos only.
 */
import { type RefObject, useEffect } from 'react'

const BEGINS = ['enterpictureinpicture', 'webkitbeginfullscreen']
const ENDS = ['leavepictureinpicture', 'webkitendfullscreen']

/** @param language of the chosen captions; null where they are off */
export function useNativeCaptions(video: RefObject<HTMLVideoElement | null>, language: string | null) {
  useEffect(() => {
    const element = video.current
    if (!element) return
    const show = (isElsewhere: boolean) => () => {
      for (const track of Array.from(element.textTracks))
        track.mode = isElsewhere && language !== null && track.language === language ? 'showing' : 'disabled'
    }
    const [begins, ends] = [show(true), show(false)]
    if (document.pictureInPictureElement === element) begins()
    else ends()
    for (const event of BEGINS) element.addEventListener(event, begins)
    for (const event of ENDS) element.addEventListener(event, ends)
    return () => {
      for (const event of BEGINS) element.removeEventListener(event, begins)
      for (const event of ENDS) element.removeEventListener(event, ends)
    }
  }, [video, language])
}
