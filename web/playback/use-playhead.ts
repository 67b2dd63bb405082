import { useEffect, useRef } from 'react'
import { player } from './player.ts'

/** Calls back before every frame that is drawn, with where the lecture is, in seconds. Nothing is rendered again for it. */
export function usePlayhead(draw: (seconds: number) => void) {
  const latest = useRef(draw)
  latest.current = draw
  useEffect(() => {
    let request = 0
    let last = Number.NaN
    let drawn: unknown = null
    const frame = () => {
      const now = player.position()
      // a picture that was rendered again must be drawn again, even where nothing moves
      if (now !== last || drawn !== latest.current) latest.current(now)
      last = now
      drawn = latest.current
      request = requestAnimationFrame(frame)
    }
    request = requestAnimationFrame(frame)
    return () => cancelAnimationFrame(request)
  }, [])
}
