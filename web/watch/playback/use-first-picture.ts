/** Whether the video has something to show: until then a slow line is for nothing else. */
import { type RefObject, useEffect, useLayoutEffect, useState } from 'react'

/** Browsers that save data show nothing before one presses play. */
const PATIENCE_MS = 3000

export function useFirstPicture(video: RefObject<HTMLVideoElement | null>): boolean {
  const [has, setHas] = useState(false)
  useEffect(() => {
    const element = video.current
    if (!element || has) return
    const comes = () => setHas(true)
    const patience = setTimeout(() => element.paused && comes(), PATIENCE_MS)
    for (const event of ['loadeddata', 'playing', 'error']) element.addEventListener(event, comes)
    element.querySelector('source:last-of-type')?.addEventListener('error', comes)
    if (element.readyState >= element.HAVE_CURRENT_DATA) comes()
    return () => {
      clearTimeout(patience)
      for (const event of ['loadeddata', 'playing', 'error']) element.removeEventListener(event, comes)
      element.querySelector('source:last-of-type')?.removeEventListener('error', comes)
    }
  }, [video, has])
  // the letters of its titles wait as well: styles.css
  useLayoutEffect(() => {
    document.documentElement.toggleAttribute('data-awaits-picture', !has)
  }, [has])
  return has
}
