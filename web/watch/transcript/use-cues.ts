import { useCallback, useEffect, useState } from 'react'
import type { VttCue } from '#core/captions/formats/webvtt/parse.ts'
import type { CaptionTrack, Source } from '#web/watch/edition/edition.ts'

export interface LoadedCues {
  /** Texts as people read them; none while they are fetched. */
  cues: VttCue[]
  /** They could not be had: the video plays without them. */
  failed: boolean
  again(): void
}

/** Who reads captions comes beside them: the page stands before. */
async function readCues(text: Promise<string>): Promise<VttCue[]> {
  const [{ parseWebVtt }, { plainCueText }, given] = await Promise.all([
    import('#core/captions/formats/webvtt/parse.ts'),
    import('#core/captions/formats/webvtt/cue-text.ts'),
    text,
  ])
  return parseWebVtt(given).cues.map((cue) => ({ ...cue, text: plainCueText(cue.text) }))
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
      readCues(source.captions(track))
        .then((cues) => current && setLoaded({ cues, failed: false }))
        .catch(() => current && setLoaded({ cues: [], failed: true }))
    return () => {
      current = false
    }
  }, [source, track, tries])
  const again = useCallback(() => setTries((n) => n + 1), [])
  return { ...loaded, again }
}
