/** A take as a text that can be marked: its words, what nobody knows the words of, sounds between words, and pauses that last. */

import { withWholeCuts } from '#core/audio/tidy-up/edit.ts'
import type { WordCut } from '#core/audio/tidy-up/place-cut.ts'
import { ownSounds, type Slip } from '#core/captions/spoken/find-slips.ts'
import type { SampleRange } from '#core/model/sample-range.ts'
import type { HeardSound } from '#core/model/take.ts'
import type { TidyUp } from '#core/model/tidy-up.ts'
import { toSamples, toSeconds } from '#core/timing/clocks.ts'
import { keptStretches } from '#core/timing/time-map.ts'
import type { SpokenKind, SpokenWord } from './spoken-words.ts'

export interface SpokenItem {
  kind: SpokenKind | HeardSound['kind'] | 'pause'
  /** '' for all but words. */
  text: string
  /** Seconds of the take; of a pause, the part of it that would go. */
  start: number
  end: number
  /** Items of one utterance follow each other in one line of thought; what is between two of them belongs to the one before. */
  utterance: number
}

/** A run of items, by their places in the list, both ends included. */
export interface ItemRun {
  first: number
  last: number
}

/** A sound that is so much of what nobody knows the words of is that. */
const SAME_SHARE = 0.6

interface Spoken {
  words: readonly SpokenWord[]
  sounds: readonly HeardSound[]
  slips: readonly Slip[]
}

/** @returns in the order in which they are heard */
export function spokenItems({ words, sounds, slips }: Spoken): SpokenItem[] {
  const own = ownSounds(sounds, words)
  const isSound = ({ kind, start, end }: SpokenWord) =>
    (kind === 'unknown' || kind === 'beginning') &&
    own.some((sound) => Math.min(end, sound.end) - Math.max(start, sound.start) > SAME_SHARE * (end - start))
  const items: SpokenItem[] = [
    ...words.filter((word) => !isSound(word)),
    ...own.map(({ kind, start, end }) => ({ kind, text: '', start, end, utterance: -1 })),
    ...slips
      .filter((slip) => slip.kind === 'hesitation' || slip.kind === 'long-pause')
      .map(({ start, end }) => ({ kind: 'pause' as const, text: '', start, end, utterance: -1 })),
  ].sort((a, b) => a.start - b.start)
  let utterance = 0
  return items.map((item) => {
    if (item.utterance >= 0) utterance = item.utterance
    return { ...item, utterance }
  })
}

/** @returns the items that lie for the greater part within a stretch of the take; null for none */
export function itemsWithin(items: readonly SpokenItem[], { start, end }: SampleRange): ItemRun | null {
  const [from, to] = [toSeconds(start), toSeconds(end)]
  const isWithin = (item: SpokenItem) => Math.min(item.end, to) - Math.max(item.start, from) > (item.end - item.start) / 2
  const first = items.findIndex(isWithin)
  return first < 0 ? null : { first, last: items.findLastIndex(isWithin) }
}

/** Which items are not heard, for the greater part: cut out, or beyond the curtains. */
export function struckItems(items: readonly SpokenItem[], recipe: Pick<TidyUp, 'kept' | 'cuts' | 'pauseCuts'>): boolean[] {
  const kept = keptStretches(recipe)
  let k = 0
  return items.map(({ start, end }) => {
    const [from, to] = [toSamples(start), toSamples(end)]
    // stretches and items both go on in time; an item may begin a little before the one before it
    while (k > 0 && kept[k - 1]!.end > from) k--
    while (k < kept.length && kept[k]!.end <= from) k++
    let heard = 0
    for (let n = k; n < kept.length && kept[n]!.start < to; n++)
      heard += Math.min(to, kept[n]!.end) - Math.max(from, kept[n]!.start)
    return heard < (to - from) / 2
  })
}

/** All struck items around one, or that one alone where it is heard. */
export function struckRun(struck: readonly boolean[], at: number): ItemRun {
  let [first, last] = [at, at]
  if (!struck[at]) return { first, last }
  while (struck[first - 1]) first--
  while (struck[last + 1]) last++
  return { first, last }
}

/**
 * What cutting items out means.
 *
 * @returns the words that go and those beside them that are heard, for the cut to be placed between; of a pause alone, the cut itself
 */
export function cutOfItems(
  items: readonly SpokenItem[],
  struck: readonly boolean[],
  { first, last }: ItemRun,
): { words: WordCut } | { cut: SampleRange } {
  const range = (from: SpokenItem, to: SpokenItem) => ({ start: toSamples(from.start), end: toSamples(to.end) })
  const goes = items.slice(first, last + 1)
  if (goes.every(({ kind }) => kind === 'pause')) return { cut: range(goes[0]!, goes.at(-1)!) }
  // what is cut out already beside it goes with it: no scrap is left between
  const isBeside = (i: number) => struck[i] || items[i]?.kind === 'pause'
  let [from, to] = [first, last]
  while (isBeside(from - 1)) from--
  while (isBeside(to + 1)) to++
  const words = items.slice(from, to + 1).filter(({ kind }) => kind !== 'pause')
  const [before, after] = [items[from - 1], items[to + 1]]
  return {
    words: {
      before: before ? toSamples(before.end) : null,
      first: toSamples(words[0]!.start),
      last: toSamples(Math.max(...words.map(({ end }) => end))),
      after: after ? toSamples(after.start) : null,
    },
  }
}

/** The stretch to put back for items to be heard again: the whole of the cuts in which they lie, where all that went with them comes back. */
export function returnOfItems(
  items: readonly SpokenItem[],
  struck: readonly boolean[],
  run: ItemRun,
  recipe: Pick<TidyUp, 'cuts'>,
): SampleRange {
  const own = { start: toSamples(items[run.first]!.start), end: toSamples(items[run.last]!.end) }
  const whole = struckRun(struck, run.first)
  if (whole.first < run.first || whole.last > run.last) return own
  return withWholeCuts(recipe, own)
}
