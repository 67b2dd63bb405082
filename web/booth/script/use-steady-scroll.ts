/** Scrolls a script at the pace of who speaks: it waits in pauses and goes along with jumps. */
import { type RefObject, useEffect } from 'react'
import type { ScriptPlace } from './use-following.ts'

/** So far down its box the line stands that is said. */
const LINE_AT = 0.35
/** Seconds in which most of the way is gone. */
const EASE_S = 0.5
/** Who scrolls by hand is let alone for so long. */
const BY_HAND_MS = 4000

/** @param box holds elements with `data-sentence`, and in the sentence that is said elements with `data-word` */
export function useSteadyScroll(box: RefObject<HTMLElement | null>, place: ScriptPlace | null) {
  const sentence = place?.sentence ?? null
  const words = place?.words ?? 0
  useEffect(() => {
    const element = box.current
    if (!element || sentence === null) return
    const own = element.querySelector<HTMLElement>(`[data-sentence="${sentence}"]`)
    const word = own?.querySelector<HTMLElement>(`[data-word="${words}"]`) ?? own
    if (!word) return
    const at = word.getBoundingClientRect().top - element.getBoundingClientRect().top + element.scrollTop
    const target = Math.max(0, at - LINE_AT * element.clientHeight)
    if (performance.now() - Number(element.dataset.byHand ?? Number.NEGATIVE_INFINITY) < BY_HAND_MS) return
    if (matchMedia('(prefers-reduced-motion: reduce)').matches) {
      // in few steps: only when the line leaves the middle
      const distance = target - element.scrollTop
      if (Math.abs(distance) > 0.3 * element.clientHeight) element.scrollTop = target
      return
    }
    let frame = 0
    let last = performance.now()
    let top = element.scrollTop
    const step = (now: number) => {
      top += (target - top) * (1 - Math.exp(-(now - last) / 1000 / EASE_S))
      last = now
      element.scrollTop = top
      if (Math.abs(target - top) > 0.5) frame = requestAnimationFrame(step)
    }
    frame = requestAnimationFrame(step)
    return () => cancelAnimationFrame(frame)
  }, [box, sentence, words])
  useEffect(() => {
    const element = box.current
    if (!element) return
    const byHand = () => {
      element.dataset.byHand = String(performance.now())
    }
    element.addEventListener('wheel', byHand, { passive: true })
    element.addEventListener('touchmove', byHand, { passive: true })
    return () => {
      element.removeEventListener('wheel', byHand)
      element.removeEventListener('touchmove', byHand)
    }
  }, [box])
}
