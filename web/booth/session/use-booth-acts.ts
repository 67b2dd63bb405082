/** What can be done in the booth, by key or press: record, rest, mark, and go on from picture to picture and slide to slide. */
import { useEffect, useState } from 'react'
import { useNavigate } from 'react-router'
import type { Lecture } from '#core/model/lecture.ts'
import type { Slide } from '#core/model/slide.ts'
import { usePageKeys } from '#web/components/keys/use-page-keys.ts'
import { stopPlay, togglePlay } from '#web/playback/sound.ts'
import { isUnderWay } from '#web/recorder/recording-session.ts'
import type { Pressed } from './key-button.tsx'
import type { PositionInDeck } from './use-position-in-deck.ts'
import type { SessionView } from './use-recording-session.ts'

interface How {
  through: boolean
  countdown: number
  /** One sentence is said again: nothing goes on to another slide. */
  staysHere: boolean
}

/** The slide that is recorded as soon as it is in front, and a way to name it. */
function useRecordNext(session: SessionView, slideId: string, countdown: number): (slideId: string | null) => void {
  const [recordNext, setRecordNext] = useState<string | null>(null)
  const { state, toggle } = session
  useEffect(() => {
    // without a microphone it is given up: nothing begins by itself when one is plugged in later
    if (state === 'opening' || state === 'no microphone') setRecordNext(null)
    else if (recordNext === slideId && state === 'ready') {
      setRecordNext(null)
      void toggle({ isContinuous: false, countdown })
    }
  }, [recordNext, slideId, state, toggle, countdown])
  return setRecordNext
}

function usePaging(session: SessionView, position: PositionInDeck, how: How, setRecordNext: (slideId: string | null) => void) {
  const { slide, step, next, before, go, showStep } = position
  const underWay = isUnderWay(session.state)
  /** Pictures of a slide are gone through while it is spoken to; otherwise one goes from slide to slide. */
  const furtherPicture = underWay ? slide.steps[step + 1] : undefined
  const move = (to: Slide | undefined, { timeStamp }: Pressed) => {
    if (!to || session.state === 'counting') return
    if (underWay && !how.through) {
      // a take belongs to the slide it was begun on: it ends, and the next slide gets one of its own
      if (how.staysHere || to !== next) return
      setRecordNext(to.id)
      void session.toggle({ isContinuous: false, countdown: how.countdown }).then(() => go(to))
      return
    }
    setRecordNext(null)
    stopPlay()
    session.backToSlide()
    if (underWay) void session.mark({ kind: 'slide', slideId: to.id }, timeStamp)
    go(to)
  }
  const forward = (press: Pressed) => {
    // what is shown next is seen
    session.backToSlide()
    if (!furtherPicture) return move(next, press)
    void session.mark({ kind: 'step', stepId: furtherPicture.id }, press.timeStamp)
    showStep(step + 1)
  }
  const backward = (press: Pressed) => {
    if (!underWay && step > 0) return showStep(0)
    move(before, press)
  }
  return { furtherPicture, move, forward, backward }
}

export type BoothActs = ReturnType<typeof useBoothActs>

export function useBoothActs(lecture: Lecture, session: SessionView, position: PositionInDeck, how: How) {
  const navigate = useNavigate()
  const underWay = isUnderWay(session.state)
  const setRecordNext = useRecordNext(session, position.slide.id, how.countdown)
  const paging = usePaging(session, position, how, setRecordNext)
  const record = () => {
    setRecordNext(null)
    stopPlay()
    if (!underWay) position.showStep(0)
    void session.toggle({ isContinuous: how.through, countdown: how.countdown })
  }
  const listen = () => {
    if (session.heard) togglePlay(session.heard)
  }
  const tell = (kind: 'wrong' | 'bookmark') => (press: Pressed) => {
    if (session.state === 'recording') void session.mark({ kind }, press.timeStamp)
  }
  const rest = () => void session.pauseOrResume()
  const pickUp = () => void session.pickUp()
  const screen = () => void session.toggleScreen()
  const leave = () => void navigate(`/lectures/${lecture.id}`)
  const acts = { ...paging, record, listen, rest, pickUp, screen, wrong: tell('wrong'), bookmark: tell('bookmark') }
  usePageKeys(
    {
      r: record,
      l: listen,
      p: rest,
      u: pickUp,
      w: acts.wrong,
      b: acts.bookmark,
      d: how.staysHere ? () => {} : screen,
      arrowright: acts.forward,
      pagedown: acts.forward,
      arrowleft: acts.backward,
      pageup: acts.backward,
      escape: () => (underWay || session.state === 'counting' ? record() : leave()),
    },
    { everywhere: true },
  )
  return acts
}
