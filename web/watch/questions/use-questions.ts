/** When the lecture asks something: it stops where a slide ends, and goes on when the question was answered or passed over. */
import { type RefObject, useCallback, useEffect, useRef, useState } from 'react'
import type { Answer, Answered, Question } from '#core/model/question.ts'
import { isRight } from '#core/model/question.ts'
import { chapterEnd, type WatchedEdition } from '#web/watch/edition/edition.ts'
import { recall, remember } from '#web/watch/edition/remember.ts'
import type { Playback } from '#web/watch/playback/use-playback.ts'

/** It stops so long before the slide's end: inside its rest, and before the next picture. */
const STOP_BEFORE_S = 0.15
/** A player tells its place in steps: what it passes in one of these was played to its end. */
const STEP_S = 1.5

interface Asked {
  question: Question
  /** Among all of the lecture. */
  index: number
  slide: number
}

/** All questions of an edition, in order. */
export function questionsOf({ chapters }: Pick<WatchedEdition, 'chapters'>): Asked[] {
  const asked: Asked[] = []
  for (const [slide, chapter] of chapters.entries())
    for (const question of (chapter.questions ?? []) as Question[]) asked.push({ question, index: asked.length, slide })
  return asked
}

export interface Questions {
  /** The one that is asked now; null while none is. */
  asked: Asked | null
  answered: readonly Answered[]
  count: number
  /** @returns whether it was right */
  answer(given: Answer): boolean
  /** To the next one, or on with the lecture. */
  goOn(): void
}

/** @param name under which answers are kept in this browser @param onAnswered told all answers after each */
export function useQuestions(
  {
    place: name,
    edition,
    onAnswered,
  }: { place: string; edition: WatchedEdition; onAnswered?: ((all: readonly Answered[], count: number) => void) | undefined },
  video: RefObject<HTMLVideoElement | null>,
  { moment, playing, pause, play, seek }: Playback,
): Questions {
  const [all] = useState(() => questionsOf(edition))
  const [answered, setAnswered] = useState<Answered[]>(() => remembered(name, all))
  const [waiting, setWaiting] = useState<Asked[]>([])
  const last = useRef(moment)
  const done = useRef(new Set(answered.map((one) => one.index)))
  useEffect(() => {
    const before = last.current
    last.current = moment
    if (!playing || moment - before > STEP_S) return
    const due = all.filter(({ index, slide }) => {
      const stop = chapterEnd(edition.chapters[slide]!) - STOP_BEFORE_S
      return !done.current.has(index) && before < stop && moment >= stop
    })
    if (due.length === 0) return
    pause()
    // a busy machine may look late: the picture goes back to the slide that is asked about
    const stop = chapterEnd(edition.chapters[due[0]!.slide]!) - STOP_BEFORE_S
    if (moment > stop + STOP_BEFORE_S) seek(stop)
    for (const { index } of due) done.current.add(index)
    setWaiting(due)
  }, [moment, playing, all, edition, pause, seek])
  const asked = waiting[0] ?? null
  const answer = useCallback(
    (given: Answer) => {
      if (!asked) return false
      const right = isRight(asked.question, given)
      const next = [
        ...answered.filter((one) => one.index !== asked.index),
        { question: asked.question, index: asked.index, answer: given, isRight: right },
      ]
      setAnswered(next)
      remember(`answers ${name}`, JSON.stringify(next.map((one) => [one.question.id, one.answer])))
      onAnswered?.(next, all.length)
      return right
    },
    [asked, answered, name, all, onAnswered],
  )
  const goOn = useCallback(() => {
    setWaiting((now) => now.slice(1))
    if (waiting.length > 1) return
    video.current?.focus()
    play()
  }, [waiting, video, play])
  return { asked, answered, count: all.length, answer, goOn }
}

/** Answers of earlier visits, of questions that are still asked. */
function remembered(name: string, all: readonly Asked[]): Answered[] {
  try {
    const kept = new Map(JSON.parse(recall(`answers ${name}`) ?? '[]') as [string, Answer][])
    return all.flatMap(({ question, index }) => {
      const answer = kept.get(question.id)
      return answer === undefined ? [] : [{ question, index, answer, isRight: isRight(question, answer) }]
    })
  } catch {
    // what is kept there is not ours
    return []
  }
}
