/** Whether the teacher has published again since the page was opened. */
import { useEffect, useState } from 'react'
import type { Source } from '#web/watch/edition/edition.ts'

const EVERY_MS = 10 * 60_000
/** Whoever goes to and fro between pages does not ask each time. */
const AT_LEAST_MS = 30_000

export function useNewerEdition(source: Source): boolean {
  const [isThere, setThere] = useState(false)
  useEffect(() => {
    if (isThere) return
    let asked = Date.now()
    const look = () => {
      if (document.hidden || Date.now() - asked < AT_LEAST_MS) return
      asked = Date.now()
      // a line that is down is told where the video waits for it
      source.isOutdated().then(setThere, () => {})
    }
    const timer = setInterval(look, EVERY_MS)
    document.addEventListener('visibilitychange', look)
    return () => {
      clearInterval(timer)
      document.removeEventListener('visibilitychange', look)
    }
  }, [source, isThere])
  return isThere
}
