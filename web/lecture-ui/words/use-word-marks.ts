/** Marks over the words of a take and over its sound, which are one; and what is done with what is marked. */

import { useMemo, useRef, useState } from 'react'
import { toast } from 'sonner'
import { cutOut, putBack } from '#core/audio/tidy-up/edit.ts'
import {
  cutOfItems,
  type ItemRun,
  itemsWithin,
  returnOfItems,
  type SpokenItem,
  spokenItems,
  struckItems,
} from '#core/captions/spoken/spoken-items.ts'
import type { Lecture } from '#core/model/lecture.ts'
import type { SampleRange } from '#core/model/sample-range.ts'
import type { Take } from '#core/model/take.ts'
import type { TidyUp } from '#core/model/tidy-up.ts'
import { toSamples } from '#core/timing/clocks.ts'
import { say } from '#core/words/say.ts'
import { sentenceOf } from '#web/data/api.ts'
import { lectureApi } from '#web/data/endpoints/lecture.ts'

interface Marking {
  lecture: Lecture
  take: Take
  kept: TidyUp
  edit: (next: TidyUp, label: string) => void
}

export type WordMarks = ReturnType<typeof useWordMarks>

const NOTHING: SpokenItem[] = []

export function useWordMarks({ lecture, take, kept, edit }: Marking) {
  const { data } = lectureApi.useSpokenQuery({ takeId: take.id, lectureId: lecture.id })
  const [placeCuts] = lectureApi.usePlaceCutsMutation()
  const [selection, setSelection] = useState<SampleRange | null>(null)
  const items = useMemo(() => (data ? spokenItems(data) : NOTHING), [data])
  /** What was marked as words, and of which: once they are known better the mark is one of sound. */
  const [markedRun, setMarkedRun] = useState<{ of: SpokenItem[]; run: ItemRun } | null>(null)
  const run = markedRun?.of === items ? markedRun.run : null
  const struck = useMemo(() => struckItems(items, kept), [items, kept])
  // what is cut is placed while other edits may be made: it is done to the recipe as it is then
  const now = useRef({ kept, edit })
  now.current = { kept, edit }

  const markItems = (next: ItemRun | null) => {
    setMarkedRun(next && { of: items, run: next })
    const of = next && items.slice(next.first, next.last + 1)
    setSelection(of && { start: toSamples(of[0]!.start), end: toSamples(Math.max(...of.map(({ end }) => end))) })
  }
  const markSound = (next: SampleRange | null) => {
    setMarkedRun(null)
    setSelection(next)
  }
  const cut = async () => {
    if (!selection) return
    if (!run) return edit(cutOut(kept, selection), say('cut'))
    const goes = cutOfItems(items, struck, run)
    if ('cut' in goes) return edit(cutOut(kept, goes.cut), say('cut'))
    try {
      const [placed] = await placeCuts({ takeId: take.id, cuts: [goes.words] }).unwrap()
      now.current.edit(cutOut(now.current.kept, placed!.cut), say('cut'))
      if (placed!.isHeard) toast(say('Nobody rests beside these words: listen to the join, or take the next word with them.'))
    } catch (error) {
      toast.error(sentenceOf(error))
    }
  }
  const restore = () => {
    if (!selection) return
    edit(putBack(kept, run ? returnOfItems(items, struck, run, kept) : selection), say('putting back'))
  }
  return {
    items,
    struck,
    /** Whether each word was found in the sound; else captions only tell roughly. */
    isTimed: data?.isTimed ?? true,
    selection,
    marked: run ?? (selection && itemsWithin(items, selection)),
    isByWords: run !== null,
    markItems,
    markSound,
    cut,
    restore,
  }
}
