import { useEffect, useState } from 'react'
import { plainCueText } from '#core/captions/webvtt/cue-text.ts'
import { parseWebVtt, type VttCue } from '#core/captions/webvtt/parse.ts'

/** @returns cues of a caption file, texts as people read them; none while it is fetched */
export function useCues(url: string | null): VttCue[] {
  const [cues, setCues] = useState<VttCue[]>([])
  useEffect(() => {
    let current = true
    setCues([])
    if (url)
      fetch(url)
        .then((response) => (response.ok ? response.text() : ''))
        .then((text) => current && setCues(parseWebVtt(text).cues.map((cue) => ({ ...cue, text: plainCueText(cue.text) }))))
        .catch(() => {}) // without captions the video still plays
    return () => {
      current = false
    }
  }, [url])
  return cues
}
