/** The script pane while a script is read with sentences left out and said again: how many words it is behind or ahead. */

import { rms } from '#core/audio/signal/pcm.ts'
import { toSixteen } from '#core/captions/align/extract-features.ts'
import { makeReference } from '#core/captions/align/reference.ts'
import { LIVE_RATE, LiveFollower } from '#core/captions/follow/live-follower.ts'
import { FOLLOWING, follow, sentenceLengths, wordsSaid } from '#core/script/follow.ts'
import { openSynthesiser } from '#server/speech/synthesiser.ts'
import { readAloud } from './cuts.ts'

/** Seconds between two looks. */
const LOOK_S = 0.1

export interface FollowingErrors {
  /** Words, of every tenth of a second in which somebody speaks. */
  byWords: number[]
  byRests: number[]
}

export async function followingErrors(seed: number, part: number): Promise<FollowingErrors> {
  const errors: FollowingErrors = { byWords: [], byRests: [] }
  for (const take of readAloud(seed, part)) {
    const { samples, script, words } = take
    const counts = script.map((sentence) => sentence.split(' ').length)
    const before = counts.map((_, i) => counts.slice(0, i).reduce((a, b) => a + b, 0))
    const sixteen = toSixteen(samples)
    const live = new LiveFollower(makeReference(script, (await openSynthesiser('en'))!))
    const lengths = sentenceLengths(script, 'en')
    let state = FOLLOWING
    const loud = rms(samples)
    for (let t = 0; t + LOOK_S < samples.length / 48_000; t += LOOK_S) {
      live.hear(sixteen.subarray(Math.round(t * LIVE_RATE), Math.round((t + LOOK_S) * LIVE_RATE)))
      for (let s = t; s < t + LOOK_S - 1e-6; s += 0.05)
        state = follow(state, lengths, rms(samples, Math.round(s * 48_000), Math.round((s + 0.05) * 48_000)) > 0.15 * loud, 0.05)
      const now = t + LOOK_S
      const said = words.find((word) => word.start <= now && word.end > now)
      if (!said) continue
      const truth = before[said.sentence]! + said.index
      const at = live.place() ?? { sentence: state.sentence, words: wordsSaid(state, lengths, counts[state.sentence] ?? 0) }
      errors.byWords.push(Math.abs((before[at.sentence] ?? before.at(-1)! + counts.at(-1)!) + at.words - truth))
      errors.byRests.push(
        Math.abs((before[state.sentence] ?? before.at(-1)!) + wordsSaid(state, lengths, counts[state.sentence] ?? 0) - truth),
      )
    }
  }
  return errors
}
