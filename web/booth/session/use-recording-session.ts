/** The session of the booth as React sees it; while it records, the page warns before it is left and the screen stays on. */
import { useEffect, useState, useSyncExternalStore } from 'react'
import { toast } from 'sonner'
import { askForMicrophone, chooseMicrophone, chosenMicrophone, listMicrophones } from '#web/recorder/input/microphones.ts'
import { canRecordPictures, FootageRecorder } from '#web/recorder/pictures/footage-recorder.ts'
import { listCameras, openCamera, openPractice, openScreen } from '#web/recorder/pictures/picture-sources.ts'
import { openInput } from '#web/recorder/recorder.ts'
import { isUnderWay, RecordingSession, type SessionDevices, type SessionSnapshot } from '#web/recorder/recording-session.ts'
import type { LinkVoice } from '#web/recorder/take-requests.ts'

/** What a session is and what can be done with it. */
export type SessionView = SessionSnapshot &
  Pick<
    RecordingSession,
    | 'level'
    | 'sound'
    | 'choose'
    | 'toggle'
    | 'pauseOrResume'
    | 'pickUp'
    | 'mark'
    | 'toggleScreen'
    | 'backToSlide'
    | 'endScreen'
    | 'chooseCamera'
  >

const BROWSER: SessionDevices = {
  pictures: {
    canRecord: canRecordPictures,
    listCameras,
    openCamera,
    openScreen,
    openPracticeScreen: openPractice,
    record: (pictures, kind) => new FootageRecorder(pictures, kind),
  },
  list: listMicrophones,
  ask: askForMicrophone,
  open: openInput,
  chosen: chosenMicrophone,
  remember: chooseMicrophone,
  address: (sound) => URL.createObjectURL(sound),
  release: (address) => URL.revokeObjectURL(address),
  complain: (sentence) => toast.error(sentence),
}

/** @param voice of who came by a link; null for the lecture's own */
export function useRecordingSession(lectureId: string, slideId: string, voice: LinkVoice | null = null): SessionView {
  const [session] = useState(() => new RecordingSession(lectureId, slideId, BROWSER, voice))
  const snapshot = useSyncExternalStore(session.subscribe, session.snapshot)
  useEffect(() => {
    void session.start()
    return () => void session.end()
  }, [session])
  useEffect(() => session.showSlide(slideId), [session, slideId])

  const underWay = isUnderWay(snapshot.state)
  useEffect(() => {
    if (!underWay) return
    const warn = (event: BeforeUnloadEvent) => event.preventDefault()
    window.addEventListener('beforeunload', warn)
    const lock = navigator.wakeLock?.request('screen').catch(() => null)
    return () => {
      window.removeEventListener('beforeunload', warn)
      void lock?.then((l) => l?.release())
    }
  }, [underWay])
  const { level, sound, choose, toggle, pauseOrResume, pickUp, mark } = session
  const { toggleScreen, backToSlide, endScreen, chooseCamera } = session
  const acts = { choose, toggle, pauseOrResume, pickUp, mark, toggleScreen, backToSlide, endScreen, chooseCamera }
  return { ...snapshot, level, sound, ...acts }
}
