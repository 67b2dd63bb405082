/** What of a take is heard, and where: as recorded or tidied, as loud as each other or as they are. */
import { useCallback, useEffect, useRef, useState } from 'react'
import type { SampleRange } from '#core/model/sample-range.ts'
import type { Take } from '#core/model/take.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { soundUrl } from '#web/data/api.ts'
import { player as lecturePlayer } from '#web/playback/player.ts'
import { type Heard, TakePlayer } from '#web/sheet/bench/sound/player.ts'

export type TakePlayback = ReturnType<typeof useTakePlayback>

/** @param onMove told where it is while it plays, seconds of the take */
export function useTakePlayback(take: Take, onMove: (moment: number) => void) {
  const length = toSeconds(take.samples)
  const [heard, setHeard] = useState<Heard>('tidied')
  const [equal, setEqual] = useState(false)
  const [{ moment, playing }, setPlay] = useState({ moment: 0, playing: false })
  const player = useRef<TakePlayer>(null)
  const { clip } = take

  // a new clip is a new player; it waits where the one before was
  const sounds = JSON.stringify([take.sound, clip?.sound, clip ? take.tidyUp : null])
  // biome-ignore lint/correctness/useExhaustiveDependencies: what the sounds are made of is in their names
  useEffect(() => {
    if (!take.sound || !take.tidyUp) return
    const made = new TakePlayer(
      {
        recorded: soundUrl(take.sound),
        tidied: clip ? soundUrl(clip.sound) : null,
        removal: take.tidyUp,
        loudness: { recorded: take.analysis?.loudnessLufs ?? null, tidied: clip?.figures.loudnessLufs ?? null },
      },
      heard,
    )
    made.setEqual(equal)
    made.seek(player.current?.moment() ?? toSeconds(take.tidyUp.kept.start))
    made.onChange = (state) => {
      setPlay(state)
      if (state.playing) onMove(state.moment)
    }
    player.current = made
    return () => made.close()
  }, [sounds])

  const listenTo = useCallback((what: Heard) => {
    setHeard(what)
    player.current?.hear(what)
  }, [])
  return {
    heard,
    equal,
    moment,
    playing,
    listenTo,
    setEqual(on: boolean) {
      setEqual(on)
      player.current?.setEqual(on)
    },
    toggle() {
      lecturePlayer.pause()
      if (playing) player.current?.pause()
      else player.current?.play(moment >= length - 0.05 ? 0 : moment)
    },
    pause: () => player.current?.pause(),
    play: (from: number) => player.current?.play(from),
    loop(selection: SampleRange | null) {
      if (!selection) return
      const [start, end] = [toSeconds(selection.start), toSeconds(selection.end)]
      player.current?.play(start, { start, end })
    },
    seek: (to: number) => player.current?.seek(Math.max(0, Math.min(length, to))),
  }
}
