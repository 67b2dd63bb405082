/** Over which slides a recording is divided, and where: proposed, or moved by hand. */
import { useMemo, useState } from 'react'
import type { Lecture } from '#core/model/lecture.ts'
import { SAMPLE_RATE, toSamples, toSeconds } from '#core/timing/clocks.ts'
import { type Boundary, snapToPause } from '#core/timing/division/split.ts'
import { visitsOf } from '#core/timing/division/split-session.ts'
import { say } from '#core/words/say.ts'
import type { Recording } from '#web/data/api.ts'
import type { From, Question } from './proposal.ts'
import { useProposal } from './use-proposal.ts'

/** Every change wants at least so much of the recording on each side. */
const CLOSEST = toSamples(0.3)

export type Division = ReturnType<typeof useDivision>

export function useDivision(lecture: Lecture, recording: Recording) {
  const [first, setFirst] = useState(0)
  const [last, setLast] = useState(lecture.slides.length - 1)
  const visits = useMemo(() => {
    if (!recording.firstSlideId || !recording.marks) return null
    const gone = visitsOf(recording.firstSlideId, recording.marks)
    return gone.every((visit) => lecture.slides.some((s) => s.id === visit.slideId)) ? gone : null
  }, [recording, lecture.slides])
  const slides = useMemo(
    () =>
      visits ? visits.map((visit) => lecture.slides.find((s) => s.id === visit.slideId)!) : lecture.slides.slice(first, last + 1),
    [visits, lecture.slides, first, last],
  )
  const written = slides.filter((slide) => slide.script.trim() !== '').length
  const [from, setFrom] = useState<From>(visits ? 'marks' : written * 2 > slides.length ? 'scripts' : 'pauses')
  const [typed, setTyped] = useState('')
  const [moved, setMoved] = useState<Boundary[] | null>(null)
  const end = toSeconds(recording.samples)

  const question = useMemo(
    (): Question => ({
      from,
      speech: recording.speech,
      scripts: slides.map((slide) => slide.script),
      language: lecture.language,
      visits,
      typed,
      end,
    }),
    [from, typed, recording, slides, visits, lecture.language, end],
  )
  const proposal = useProposal(question)
  const boundaries = moved ?? proposal?.boundaries ?? []
  const again = (act: () => void) => {
    setMoved(null)
    act()
  }
  const move = (index: number, at: number, snap: boolean) => {
    const low = (boundaries[index - 1]?.at ?? 0) + CLOSEST
    const high = (boundaries[index + 1]?.at ?? recording.samples) - CLOSEST
    const wanted = Math.round(Math.min(high, Math.max(low, at)))
    const to = snap ? snapToPause(recording.speech, wanted, SAMPLE_RATE / 4) : { at: wanted, pause: null }
    const inside = to.at >= low && to.at <= high ? to : { at: wanted, pause: null }
    setMoved(boundaries.map((b, i) => (i === index ? inside : b)))
  }
  return {
    first,
    last,
    visits,
    slides,
    from,
    typed,
    boundaries,
    problem: moved === null && proposal?.problem ? say(proposal.problem) : null,
    isReady: proposal?.problem === null || moved !== null,
    move,
    setFirst: (slide: number) => again(() => setFirst(Math.min(slide, last))),
    setLast: (slide: number) => again(() => setLast(Math.max(slide, first))),
    setFrom: (next: From) => again(() => setFrom(next)),
    setTyped: (text: string) => again(() => setTyped(text)),
  }
}
