/** How a script is shown while one speaks: kept in this browser. */
import { useState } from 'react'
import { z } from 'zod'

const KEY = 'script look'
export const SIZES = [18, 20, 22, 25, 28, 32, 38, 46, 56]
/** Widths of its lines, as shares of the room there is. */
export const WIDTHS = [0.5, 0.65, 0.8, 1]

const ScriptLook = z.object({
  /** px */
  size: z.number().catch(25),
  width: z.number().catch(1),
  font: z.enum(['reading', 'plain']).catch('reading'),
  /** For the glass in front of a camera, which turns left and right about. */
  isMirrored: z.boolean().catch(false),
})
export type ScriptLook = z.infer<typeof ScriptLook>

function keptLook(window: string): ScriptLook {
  try {
    return ScriptLook.parse(JSON.parse(localStorage.getItem(`${KEY} ${window}`) ?? '{}'))
  } catch {
    return ScriptLook.parse({})
  }
}

/** @param window whose look it is: the booth's and that of the window of its own differ */
export function useScriptLook(window: 'booth' | 'window'): [ScriptLook, (change: Partial<ScriptLook>) => void] {
  const [look, setLook] = useState(() => keptLook(window))
  return [
    look,
    (change) =>
      setLook((old) => {
        const next = { ...old, ...change }
        localStorage.setItem(`${KEY} ${window}`, JSON.stringify(next))
        return next
      }),
  ]
}

/** The next size up or down. */
export const resized = (size: number, by: 1 | -1) =>
  SIZES[Math.max(0, Math.min(SIZES.length - 1, SIZES.findIndex((s) => s >= size) + by))]!
