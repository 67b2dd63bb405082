/** Answers heard one after the other: which one is current, and what comes when it ends. */
import { useCallback, useEffect, useRef, useState } from 'react'
import { type Answer, answerSound } from '#web/data/endpoints/voices/voice-links.ts'
import { stopPlay, togglePlay, usePlaying, whenSoundEnds } from '#web/playback/sound.ts'

export function useRow(answers: readonly Answer[]) {
  const [currentId, setCurrentId] = useState<string | null>(null)
  const playing = usePlaying()
  const isPlaying = currentId !== null && playing === answerSound(currentId)
  const heard = answers.filter((answer) => answer.clip)
  const at = heard.findIndex(({ id }) => id === currentId)
  const play = useCallback((id: string) => {
    setCurrentId(id)
    stopPlay()
    togglePlay(answerSound(id))
  }, [])
  const latest = useRef({ heard, at, currentId })
  latest.current = { heard, at, currentId }
  useEffect(
    () =>
      whenSoundEnds((url) => {
        const { heard: list, at: here, currentId: id } = latest.current
        const next = list[here + 1]
        if (id !== null && url === answerSound(id) && next) play(next.id)
      }),
    [play],
  )
  const toggleAt = (id: string) => (isPlaying && id === currentId ? stopPlay() : play(id))
  return {
    currentId,
    isPlaying,
    toggleAt,
    /** The current one, from its beginning; the first where there is none. */
    toggle: () => {
      const id = heard[at]?.id ?? heard[0]?.id
      if (id !== undefined) toggleAt(id)
    },
    move: (by: 1 | -1) => {
      const next = heard[at < 0 ? 0 : at + by]
      if (!next) return
      if (isPlaying) play(next.id)
      else setCurrentId(next.id)
    },
  }
}
