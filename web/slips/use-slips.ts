/** The slips of a lecture's kept takes, and what is done about them: each an edit that can be undone, however many slips it takes away. */

import { useMemo } from 'react'
import { toast } from 'sonner'
import { cutOut, putBack } from '#core/audio/tidy-up/edit.ts'
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

export function useSlips(lecture: Lecture) {
  const dispatch = useAppDispatch()
  const { data } = lectureApi.useSlipsQuery(lecture.id)
  const [placeCuts] = lectureApi.usePlaceCutsMutation()
  const listed = useMemo(
    () =>
      (data ?? []).flatMap(({ slideId, takeId, slips }): ListedSlip[] => {
        const index = lecture.slides.findIndex((slide) => slide.id === slideId)
        const slide = lecture.slides[index]
        const take = slide ? keptTake(slide) : null
        if (!slide || !take?.tidyUp || take.id !== takeId) return []
        return slips.map((slip) => ({ slip, slide, number: index + 1, take, isHeard: isMostlyHeard(take, rangeOf(slip)) }))
      }),
    [data, lecture],
  )
  const groups = SLIP_KINDS.map((kind) => ({ kind, slips: listed.filter(({ slip }) => slip.kind === kind) })).filter(
    ({ slips }) => slips.length > 0,
  )

  /** Where each would be cut, in the order given. */
  const place = async (slips: readonly ListedSlip[]): Promise<SampleRange[]> => {
    const places = new Map<ListedSlip, SampleRange>(slips.map((one) => [one, rangeOf(one.slip)]))
    for (const take of new Set(slips.map((one) => one.take))) {
      const own = slips.filter((one) => one.take === take && one.slip.words)
      if (own.length === 0) continue
      const placed = await placeCuts({ takeId: take.id, cuts: own.map((one) => one.slip.words!) }).unwrap()
      for (const [i, one] of own.entries()) places.set(one, placed[i]!.cut)
    }
    return slips.map((one) => places.get(one)!)
  }

  const telling = (act: Promise<unknown>) => void act.catch((error) => toast.error(sentenceOf(error)))

  const change = (slips: readonly ListedSlip[], places: readonly SampleRange[], label: string, by: typeof cutOut) => {
    const forth: Command[] = []
    const back: Command[] = []
    for (const take of new Set(slips.map((one) => one.take))) {
      const own = places.filter((_, i) => slips[i]!.take === take)
      forth.push({ kind: 'tidyUp', takeId: take.id, tidyUp: own.reduce(by, take.tidyUp!) })
      back.push({ kind: 'tidyUp', takeId: take.id, tidyUp: take.tidyUp! })
    }
    return dispatch(editOrTell({ lectureId: lecture.id, label, forth, back }))
  }

  return {
    groups,
    /** How many takes were not listened to yet. */
    waiting: (data ?? []).filter(({ isHeard }) => !isHeard).length,
    isLoading: data === undefined,
    left: (kind: SlipKind) => listed.filter(({ slip, isHeard }) => slip.kind === kind && isHeard),
    cut: (slips: readonly ListedSlip[], label: string) =>
      telling(place(slips).then((places) => change(slips, places, label, cutOut))),
    restore: (one: ListedSlip) => {
      const range = rangeOf(one.slip)
      const touched = one.take.tidyUp!.cuts.filter((cut) => cut.end > range.start && cut.start < range.end)
      const whole = {
        start: Math.min(range.start, ...touched.map((c) => c.start)),
        end: Math.max(range.end, ...touched.map((c) => c.end)),
      }
      void change([one], [whole], say('putting back'), putBack)
    },
    /** As it was recorded, with what would go, or without it. */
    hear: (one: ListedSlip, without: boolean) => {
      const { take } = one
      const around = (cut: SampleRange) => {
        const [from, to] = [Math.max(0, cut.start - AROUND), Math.min(take.samples, cut.end + AROUND)]
        return without
          ? [
              { start: from, end: cut.start },
              { start: cut.end, end: to },
            ]
          : [{ start: from, end: to }]
      }
      telling(place([one]).then(([cut]) => playPieces(take.id, around(cut!), take.clip?.figures.gainDb ?? 0)))
    },
  }
}
