/** What of a script is read in a booth: its points, or its sentences; and which points were said. */
import { useMemo, useState } from 'react'
import { pointsOf } from '#core/script/points.ts'
import { sentences } from '#core/script/sentences.ts'

const NOTHING: string[] = []

/** @returns the points of a script that has such, else null; and its sentences, none where it has points */
export function useScriptParts(script: string, language: string) {
  const points = useMemo(() => pointsOf(script), [script])
  const said = useMemo(() => (points ? NOTHING : sentences(script, language)), [points, script, language])
  return { points, said }
}

/** @returns places of the points that were said, and what ticks one off or takes that back */
export function useTicked(): [number[], (at: number) => void] {
  const [ticked, setTicked] = useState<number[]>([])
  return [ticked, (at) => setTicked((old) => (old.includes(at) ? old.filter((i) => i !== at) : [...old, at]))]
}
