/** Words of one take, laid before or after what is heard of another. */
import type { SampleRange } from '#core/model/sample-range.ts'
import type { TidyUp } from '#core/model/tidy-up.ts'
import { toSamples } from '#core/timing/clocks.ts'

/** Where one recording meets the other, that much is cut out on each side: the join of the cut covers it. */
const MEETING = toSamples(0.01)

export type AddedAt = 'start' | 'end'

const moved = ({ start, end }: SampleRange, by: number): SampleRange => ({ start: start + by, end: end + by })

/**
 * @param take as it was recorded, mono, 48 kHz, 16 bits, and its recipe
 * @param words a piece of another take that begins and ends in a rest
 * @returns both in one; what was cut out of the take, made louder or faded stays so; and by how much its moments move
 */
export function addWords(
  take: { samples: Int16Array; tidyUp: TidyUp },
  words: Int16Array,
  at: AddedAt,
): { samples: Int16Array<ArrayBuffer>; tidyUp: TidyUp; shift: number } {
  const { samples, tidyUp } = take
  const out = new Int16Array(samples.length + words.length)
  const isFirst = at === 'start'
  const shift = isFirst ? words.length : 0
  out.set(words, isFirst ? 0 : samples.length)
  out.set(samples, shift)
  const kept = moved(tidyUp.kept, shift)
  // what lay beyond the curtains of the take lies in the middle now, and is not heard there either
  const between = isFirst
    ? { start: Math.max(0, words.length - MEETING), end: Math.max(words.length + 1, kept.start) }
    : { start: Math.min(kept.end, samples.length - 1), end: samples.length + Math.min(MEETING, words.length - 1) }
  return {
    samples: out,
    shift,
    tidyUp: {
      ...tidyUp,
      kept: isFirst ? { start: 0, end: kept.end } : { start: kept.start, end: out.length },
      cuts: [...tidyUp.cuts.map((cut) => moved(cut, shift)), between].sort((a, b) => a.start - b.start),
      pauseCuts: tidyUp.pauseCuts.map((cut) => moved(cut, shift)),
      silenced: tidyUp.silenced.map((stretch) => moved(stretch, shift)),
      gains: tidyUp.gains.map(({ stretch, db }) => ({ stretch: moved(stretch, shift), db })),
      roomTone: tidyUp.roomTone && moved(tidyUp.roomTone, shift),
    },
  }
}
