/** Colours of the theme for charts, which follow it when it changes by itself in the evening. */
import { useSyncExternalStore } from 'react'

/** @param name of a CSS variable, such as --color-primary */
export function useColour(name: string): string {
  return useSyncExternalStore(
    (changed) => {
      const query = matchMedia('(prefers-color-scheme: dark)')
      query.addEventListener('change', changed)
      return () => query.removeEventListener('change', changed)
    },
    () => getComputedStyle(document.documentElement).getPropertyValue(name).trim(),
  )
}
