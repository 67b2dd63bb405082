import { useCallback, useRef, useState } from 'react'

/** @returns a ref for an element, and that element's width in whole pixels (0 until it is known) */
export function useWidth(): [(element: HTMLElement | null) => void, number] {
  const [width, setWidth] = useState(0)
  const observer = useRef<ResizeObserver>(null)
  const ref = useCallback((element: HTMLElement | null) => {
    observer.current?.disconnect()
    if (!element) return
    observer.current = new ResizeObserver(([entry]) => setWidth(Math.floor(entry!.contentRect.width)))
    observer.current.observe(element)
  }, [])
  return [ref, width]
}
