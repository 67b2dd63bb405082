/** What can be done in the booth of a link, by key or press. */
import { useEffect, useState } from 'react'
import type { Pressed } from '#web/booth/session/key-button.tsx'
import type { SessionView } from '#web/booth/session/use-recording-session.ts'
import { usePageKeys } from '#web/components/keys/use-page-keys.ts'
import type { OwnBooth } from '#web/data/endpoints/voices/record.ts'
import { stopPlay, togglePlay } from '#web/playback/sound.ts'
import { isUnderWay } from '#web/recorder/recording-session.ts'

/** A take begins after so many seconds are counted, as in every booth. */
const COUNTDOWN_KEY = 'countdown'
const countdown = () => Number(localStorage.getItem(COUNTDOWN_KEY) ?? 3)

export type GuestActs = ReturnType<typeof useGuestActs>

export function useGuestActs(booth: OwnBooth, session: SessionView, at: number, setAt: (at: number) => void) {
  const [step, setStep] = useState(0)
  const slide = booth.slides[Math.min(at, booth.slides.length - 1)]!
  // biome-ignore lint/correctness/useExhaustiveDependencies: another slide begins with its first picture
  useEffect(() => setStep(0), [slide.id])
  const underWay = isUnderWay(session.state)
  const further = underWay ? slide.steps[step + 1] : undefined
  const isBusy = underWay || session.state === 'counting' || session.state === 'stopping'
  const go = (to: number) => {
    if (isBusy || !booth.slides[to]) return
    stopPlay()
    setAt(to)
  }
  const record = () => {
    if (booth.refusal && !underWay) return
    stopPlay()
    if (!underWay) setStep(0)
    void session.toggle({ isContinuous: false, countdown: countdown() })
  }
  const forward = ({ timeStamp }: Pressed) => {
    if (!further) return go(at + 1)
    void session.mark({ kind: 'step', stepId: further.id }, timeStamp)
    setStep(step + 1)
  }
  const backward = () => go(at - 1)
  const listen = () => {
    if (session.heard) togglePlay(session.heard)
  }
  const rest = () => void session.pauseOrResume()
  const pickUp = () => {
    if (booth.kind === 'guest') void session.pickUp()
  }
  usePageKeys(
    {
      r: record,
      l: listen,
      p: rest,
      u: pickUp,
      arrowright: forward,
      pagedown: forward,
      arrowleft: backward,
      pageup: backward,
      escape: () => (underWay || session.state === 'counting') && record(),
    },
    { everywhere: true },
  )
  return {
    step: Math.min(step, slide.steps.length - 1),
    isBusy,
    hasFurtherPicture: further !== undefined,
    canGoOn: further !== undefined || (!isBusy && at + 1 < booth.slides.length),
    canGoBack: !isBusy && at > 0,
    ...{ go, record, forward, backward, listen, rest, pickUp },
  }
}
