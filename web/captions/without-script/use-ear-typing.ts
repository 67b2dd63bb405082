/** Typing by ear on the page: keys, and a phrase that plays as one comes to it. */

import { type KeyboardEvent, useCallback, useEffect, useMemo, useRef, useState } from 'react'
import type { LectureCue } from '#core/captions/tracks/place-cues.ts'
import type { StoredCue } from '#core/model/caption.ts'
import { player } from '#web/playback/player.ts'
import { usePlayhead } from '#web/playback/use-playhead.ts'
import { earKeyOf } from './ear-keys.ts'
import { EarTyping } from './ear-typing.ts'

type OnKey = (event: KeyboardEvent<HTMLTextAreaElement>, cue: StoredCue) => void

interface EarTypingOnPage {
  cues: readonly StoredCue[]
  stretchOf: (cueId: string) => LectureCue | null
  /** Goes to a caption beside one. @returns the one it has gone to */
  step: (cue: StoredCue, by: 1 | -1) => StoredCue | null
  goTo: (cueId: string) => void
  onKey: OnKey
}

const BACK_S = 2

/** @returns whether it is on, how it begins, and what to do with a key in a caption */
export function useEarTyping({ cues, stretchOf, step, goTo, onKey }: EarTypingOnPage) {
  const [isByEar, setIsByEar] = useState(false)
  /** A caption that was asked for and is not there yet. */
  const [awaited, setAwaited] = useState<string | null>(null)
  const typing = useMemo(() => new EarTyping(player), [])
  usePlayhead((now) => typing.at(now))
  const hear = (cueId: string) => {
    const stretch = stretchOf(cueId)
    if (stretch) typing.hear(stretch)
  }
  useEffect(() => {
    if (!awaited || !cues.some((cue) => cue.id === awaited)) return
    setAwaited(null)
    goTo(awaited)
    hear(awaited)
  })
  const acts = {
    goOn: (cue: StoredCue) => {
      const next = step(cue, 1)
      if (next) hear(next.id)
    },
    again: (cue: StoredCue) => hear(cue.id),
    back: () => {
      typing.leave()
      player.play(Math.max(0, player.position() - BACK_S))
    },
  }
  const latest = useRef({ acts, isByEar, onKey })
  latest.current = { acts, isByEar, onKey }
  const onEarKey = useCallback<OnKey>(
    (event, cue) => {
      const { acts, isByEar, onKey } = latest.current
      const key = isByEar && !event.nativeEvent.isComposing ? earKeyOf(event) : null
      if (!key) {
        // other keys of the page may play something else
        if (event.altKey || event.ctrlKey || event.metaKey) typing.leave()
        return onKey(event, cue)
      }
      event.preventDefault()
      acts[key](cue)
    },
    [typing],
  )
  const begin = (firstCueId: string) => {
    setIsByEar(true)
    setAwaited(firstCueId)
  }
  const turn = (on: boolean) => {
    typing.leave()
    setIsByEar(on)
  }
  return { isByEar, setIsByEar: turn, begin, onEarKey }
}
