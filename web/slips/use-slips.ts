/** The slips of a lecture's kept takes, and what is done about them: each an edit that can be undone, however many slips it takes away. */

import { useMemo } from 'react'
import { toast } from 'sonner'
import { cutOut, putBack, withWholeCuts } from '#core/audio/tidy-up/edit.ts'
import type { PlacedCut } from '#core/audio/tidy-up/place-cut.ts'
import { SLIP_KINDS, type Slip, type SlipKind } from '#core/captions/spoken/find-slips.ts'
import { isMostlyHeard } from '#core/edition/checks/heard-checks.ts'
import { keptTake } from '#core/model/kept-take.ts'
import type { Lecture } from '#core/model/lecture.ts'
import type { SampleRange } from '#core/model/sample-range.ts'
import type { Slide } from '#core/model/slide.ts'
import type { Take } from '#core/model/take.ts'
import { toSamples } from '#core/timing/clocks.ts'
import { say } from '#core/words/say.ts'
import { sentenceOf } from '#web/data/api.ts'
import type { Command } from '#web/data/commands.ts'
import { lectureApi } from '#web/data/endpoints/lecture.ts'
import { editOrTell } from '#web/data/history.ts'
import { lectureNow } from '#web/data/lecture-now.ts'
import { useAppDispatch } from '#web/data/store.ts'
import { playPieces } from '#web/playback/play-pieces.ts'

export interface ListedSlip {
  slip: Slip
  slide: Slide
  /** From 1. */
  number: number
  take: Take
  /** Not cut out. */
  isHeard: boolean
}

/** Heard before and after a slip. Samples. */
const AROUND = toSamples(1.6)

const rangeOf = ({ start, end }: Slip): SampleRange => ({
  start: toSamples(start),
  end: Math.max(toSamples(start) + 1, toSamples(end)),
})

/** Plays what is around a cut, with what would go or without it. */
function hear(take: Take, cut: SampleRange, without: boolean) {
  const [start, end] = [Math.max(0, cut.start - AROUND), Math.min(take.samples, cut.end + AROUND)]
  const pieces = without
    ? [
        { start, end: cut.start },
        { start: cut.end, end },
      ]
    : [{ start, end }]
  return playPieces(take.id, pieces, take.clip?.figures.gainDb ?? 0)
}

type Answer = { slideId: string; takeId: string; slips: Slip[] }[] | undefined

/** Slips of takes that are still kept, with their slides. */
const listed = (answer: Answer, lecture: Lecture): ListedSlip[] =>
  (answer ?? []).flatMap(({ slideId, takeId, slips }) => {
    const index = lecture.slides.findIndex((slide) => slide.id === slideId)
    const slide = lecture.slides[index]
    const take = slide ? keptTake(slide) : null
    if (!slide || !take?.tidyUp || take.id !== takeId) return []
    return slips.map((slip) => ({ slip, slide, number: index + 1, take, isHeard: isMostlyHeard(take, rangeOf(slip)) }))
  })

export function useSlips(lecture: Lecture) {
  const dispatch = useAppDispatch()
  const { data } = lectureApi.useSlipsQuery(lecture.id)
  const [placeCuts] = lectureApi.usePlaceCutsMutation()
  const all = useMemo(() => listed(data, lecture), [data, lecture])
  const groups = SLIP_KINDS.map((kind) => ({ kind, slips: all.filter(({ slip }) => slip.kind === kind) })).filter(
    ({ slips }) => slips.length > 0,
  )

  /** Where each would be cut, in the order given. */
  const place = async (slips: readonly ListedSlip[]): Promise<PlacedCut[]> => {
    const places = new Map<ListedSlip, PlacedCut>(slips.map((one) => [one, { cut: rangeOf(one.slip), isHeard: false }]))
    for (const take of new Set(slips.map((one) => one.take))) {
      const own = slips.filter((one) => one.take === take && one.slip.words)
      if (own.length === 0) continue
      const placed = await placeCuts({ takeId: take.id, cuts: own.map((one) => one.slip.words!) }).unwrap()
      for (const [i, one] of own.entries()) places.set(one, placed[i]!)
    }
    return slips.map((one) => places.get(one)!)
  }

  const telling = (act: Promise<unknown>) => void act.catch((error) => toast.error(sentenceOf(error)))

  const change = (slips: readonly ListedSlip[], places: readonly SampleRange[], label: string, by: typeof cutOut) => {
    const forth: Command[] = []
    const back: Command[] = []
    // recipes as they are by now: cuts were placed meanwhile
    const takes = new Map(
      (lectureNow(lecture.id) ?? lecture).slides.flatMap((slide) => slide.takes.map((t) => [t.id, t] as const)),
    )
    for (const takeId of new Set(slips.map((one) => one.take.id))) {
      const tidyUp = takes.get(takeId)?.tidyUp
      if (!tidyUp) continue
      const own = places.filter((_, i) => slips[i]!.take.id === takeId)
      forth.push({ kind: 'tidyUp', takeId, tidyUp: own.reduce(by, tidyUp) })
      back.push({ kind: 'tidyUp', takeId, tidyUp })
    }
    return dispatch(editOrTell({ lectureId: lecture.id, label, forth, back }))
  }

  const cut = async (slips: readonly ListedSlip[], label: string) => {
    const places = await place(slips)
    await change(
      slips,
      places.map((one) => one.cut),
      label,
      cutOut,
    )
    const count = places.filter(({ isHeard }) => isHeard).length
    if (count > 0)
      toast(
        say('{count, plural, one {One cut has} other {# cuts have}} no rest beside it: listen to the join on its bench.', {
          count,
        }),
      )
  }

  return {
    groups,
    /** How many takes were not listened to yet. */
    waiting: (data ?? []).filter(({ isHeard }) => !isHeard).length,
    isLoading: data === undefined,
    left: (kind: SlipKind) => all.filter(({ slip, isHeard }) => slip.kind === kind && isHeard),
    cut: (slips: readonly ListedSlip[], label: string) => telling(cut(slips, label)),
    restore: (one: ListedSlip) =>
      void change([one], [withWholeCuts(one.take.tidyUp!, rangeOf(one.slip))], say('putting back'), putBack),
    /** As it was recorded, with what would go, or without it. */
    hear: (one: ListedSlip, without: boolean) => telling(place([one]).then(([placed]) => hear(one.take, placed!.cut, without))),
  }
}
