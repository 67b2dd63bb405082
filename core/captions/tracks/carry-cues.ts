/** Captions of one recording on another of the same script: each stays with the words it was with. */
import type { Alignment } from '#core/captions/align/align.ts'
import { finalUtterance } from '#core/captions/align/align.ts'
import type { StoredCue } from '#core/model/caption.ts'

/** A caption that is this far from every word that both recordings have may belong to something else. */
const FAR_S = 2
/** However fast it is said now, a caption must be long enough to be seen. */
const SHORTEST_S = 0.3

/** A moment of one recording, and the same word's in the other. */
type Anchor = readonly [from: number, to: number]

/** Where words that both recordings have begin and end, in order on both. */
function anchorsOf(from: Alignment, to: Alignment): Anchor[] {
  const pairs = from.sentences.flatMap((sentence): Anchor[] => {
    const other = to.sentences.find(({ i }) => i === sentence.i)
    if (!other || sentence.skipped || other.skipped) return []
    const words = new Map(finalUtterance(other)?.words.map((word) => [word.k, word]))
    return (finalUtterance(sentence)?.words ?? []).flatMap((word): Anchor[] => {
      const same = words.get(word.k)
      return same
        ? [
            [word.start, same.start],
            [word.end, same.end],
          ]
        : []
    })
  })
  return inOrder(pairs.sort((a, b) => a[0] - b[0] || a[1] - b[1]))
}

/** The most anchors that are in order on both: what is said elsewhere now would turn time back. @see Fredman 1975, longest increasing subsequence */
function inOrder(anchors: readonly Anchor[]): Anchor[] {
  /** Of each length of a run, the anchor it can end with earliest, by place. */
  const ends: number[] = []
  const before = new Map<number, number | undefined>()
  for (const [place, [, to]] of anchors.entries()) {
    let [from, until] = [0, ends.length]
    while (from < until) {
      const middle = (from + until) >> 1
      if (anchors[ends[middle]!]![1] < to) from = middle + 1
      else until = middle
    }
    before.set(place, ends[from - 1])
    ends[from] = place
  }
  const kept: Anchor[] = []
  for (let place = ends.at(-1); place !== undefined; place = before.get(place)) kept.unshift(anchors[place]!)
  // two words that touch begin and end in one moment
  return kept.filter(([moment], i) => i === 0 || moment > kept[i - 1]![0])
}

function moved(anchors: readonly Anchor[], moment: number): number {
  const after = anchors.findIndex(([from]) => from > moment)
  if (after === 0) return anchors[0]![1] - (anchors[0]![0] - moment)
  const [start, startTo] = anchors.at(after < 0 ? -1 : after - 1)!
  if (after < 0) return startTo + (moment - start)
  const [end, endTo] = anchors[after]!
  return startTo + ((moment - start) / (end - start)) * (endTo - startTo)
}

/**
 * Times of captions on another recording, by the words that both have; between two words time is stretched evenly.
 *
 * @param cues seconds of the recording `from` tells of
 * @param seconds length of the other recording
 * @returns the cues with their times on the other recording, those far from every known word marked for a look; null where the two share no word
 */
export function carryCues(
  cues: readonly StoredCue[],
  from: Alignment,
  to: Alignment,
  seconds: number,
): Pick<StoredCue, 'start' | 'end' | 'needsReview'>[] | null {
  const anchors = anchorsOf(from, to)
  if (anchors.length === 0) return null
  return cues.map((cue) => {
    const start = Math.min(Math.max(0, moved(anchors, cue.start)), seconds - SHORTEST_S)
    const end = Math.min(Math.max(moved(anchors, cue.end), start + SHORTEST_S), seconds)
    const isNear = anchors.some(([moment]) => moment > cue.start - FAR_S && moment < cue.end + FAR_S)
    return { start, end, needsReview: cue.needsReview || !isNear }
  })
}
