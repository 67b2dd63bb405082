import { useCallback, useEffect, useState } from 'react'
import { plainCueText } from '#core/captions/formats/webvtt/cue-text.ts'
import { parseWebVtt, type VttCue } from '#core/captions/formats/webvtt/parse.ts'
import type { CaptionTrack, Source } from '#web/watch/edition/edition.ts'

export interface LoadedCues {
  /** Texts as people read them; none while they are fetched. */
  cues: VttCue[]
  /** They could not be had: the video plays without them. */
  failed: boolean
  again(): void
}

/** @returns cues of a caption track */
export function useCues(source: Source, track: CaptionTrack | undefined): LoadedCues {
  const [loaded, setLoaded] = useState<{ cues: VttCue[]; failed: boolean }>({ cues: [], failed: false })
  const [tries, setTries] = useState(0)
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new try asks again
  useEffect(() => {
    let current = true
    setLoaded({ cues: [], failed: false })
    if (track)
      source
        .captions(track)
        .then((text) => {
          const cues = parseWebVtt(text).cues.map((cue) => ({ ...cue, text: plainCueText(cue.text) }))
          if (current) setLoaded({ cues, failed: false })
        })
        .catch(() => current && setLoaded({ cues: [], failed: true }))
    return () => {
      current = false
    }
  }, [source, track, tries])
  const again = useCallback(() => setTries((n) => n + 1), [])
  return { ...loaded, again }
}
