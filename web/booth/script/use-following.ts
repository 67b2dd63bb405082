/** Marks the sentence that is being said, and the words of it that were said, while it is recorded. */
import { useEffect, useMemo, useRef, useState } from 'react'
import { FOLLOWING, type Following, follow, sentenceLengths, wordsSaid } from '#core/script/follow.ts'
import type { LevelFeed } from '#web/recorder/feed.ts'

/** The voice stands this far out of the room, dB, and is never quieter than this. */
const OVER_ROOM_DB = 12
const QUIETEST_DB = -50
/** The room is taken to be what is quietest, and to grow louder no faster than this, dB a second. */
const ROOM_RISES = 3
/** Longer gaps between two reports are a page that was not running. */
const LONGEST_STEP_S = 0.25

/** Where the speaker is in a script. */
export interface ScriptPlace {
  /** Index of the sentence that is said, or comes next. */
  sentence: number
  /** Words of it that were said. */
  words: number
}

/** @returns where the speaker is; null while nothing is recorded; and a way to say which sentence it is */
export function useFollowing(
  level: LevelFeed,
  sentences: readonly string[],
  language: string,
  recording: boolean,
  resting: boolean,
): [ScriptPlace | null, (sentence: number) => void] {
  const lengths = useMemo(() => sentenceLengths(sentences, language), [sentences, language])
  const state = useRef<Following>(FOLLOWING)
  const [current, setCurrent] = useState<ScriptPlace | null>(null)
  const counts = useMemo(() => sentences.map((sentence) => sentence.split(/\s+/u).length), [sentences])
  const still = useRef(resting)
  still.current = resting
  useEffect(() => {
    if (!recording) {
      setCurrent(null)
      return
    }
    state.current = FOLLOWING
    setCurrent({ sentence: 0, words: 0 })
    let room = -30
    let last = performance.now()
    return level.listen(({ peak }) => {
      const now = performance.now()
      const seconds = Math.min(LONGEST_STEP_S, (now - last) / 1000)
      last = now
      if (still.current) return
      const db = 20 * Math.log10(Math.max(peak, 1e-5))
      room = Math.min(db, room + ROOM_RISES * seconds)
      state.current = follow(state.current, lengths, db > Math.max(room + OVER_ROOM_DB, QUIETEST_DB), seconds)
      const { sentence } = state.current
      const words = wordsSaid(state.current, lengths, counts[sentence] ?? 0)
      setCurrent((old) => (old?.sentence === sentence && old.words === words ? old : { sentence, words }))
    })
  }, [level, lengths, counts, recording])
  const moveTo = (sentence: number) => {
    if (!recording) return
    state.current = { ...state.current, sentence, spoken: 0 }
    setCurrent({ sentence, words: 0 })
  }
  return [current, moveTo]
}
