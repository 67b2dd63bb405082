import { useEffect, useRef } from 'react'
import { player } from './player.ts'

/**
 * Calls back before a frame is drawn, with where the lecture is, in seconds: before each while it plays, and else when it was moved or the
 * caller rendered again. Nothing is rendered again for it.
 */
export function usePlayhead(draw: (seconds: number) => void) {
  const latest = useRef(draw)
  latest.current = draw
  const wake = useRef(() => {})
  useEffect(() => {
    let request: number | null = null
    const frame = () => {
      request = player.state().playing ? requestAnimationFrame(frame) : null
      latest.current(player.position())
    }
    wake.current = () => {
      request ??= requestAnimationFrame(frame)
    }
    const end = player.subscribe(wake.current)
    return () => {
      end()
      if (request !== null) cancelAnimationFrame(request)
      request = null
      wake.current = () => {}
    }
  }, [])
  // a picture that was rendered again must be drawn again, even where nothing moves
  useEffect(() => wake.current())
}
