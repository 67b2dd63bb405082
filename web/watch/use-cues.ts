import { useEffect, useState } from 'react'
import { plainCueText } from '#core/captions/formats/webvtt/cue-text.ts'
import { parseWebVtt, type VttCue } from '#core/captions/formats/webvtt/parse.ts'
import type { CaptionTrack, Source } from './edition.ts'

/** @returns cues of a caption track, texts as people read them; none while it is fetched */
export function useCues(source: Source, track: CaptionTrack | undefined): VttCue[] {
  const [cues, setCues] = useState<VttCue[]>([])
  useEffect(() => {
    let current = true
    setCues([])
    if (track)
      source
        .captions(track)
        .then((text) => current && setCues(parseWebVtt(text).cues.map((cue) => ({ ...cue, text: plainCueText(cue.text) }))))
        .catch(() => {}) // without captions the video still plays
    return () => {
      current = false
    }
  }, [source, track])
  return cues
}
