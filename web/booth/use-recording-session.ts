/** One session at the microphone: which input is open, what is being recorded, and where its sound is. */
import { useCallback, useEffect, useRef, useState } from 'react'
import { toast } from 'sonner'
import type { Mark } from '#core/model/marks.ts'
import { keepLevels, type LevelFeed } from '#web/recorder/level-feed.ts'
import {
  askForMicrophone,
  chooseMicrophone,
  listMicrophones,
  type Microphone,
  MicrophoneProblem,
  NONE_FOUND,
  preferredMicrophone,
} from '#web/recorder/microphones.ts'
import { type Input, openInput, type Recording, type Telling } from '#web/recorder/recorder.ts'
import type { UploadReport } from '#web/recorder/upload.ts'

export type SessionState = 'opening' | 'ready' | 'counting' | 'recording' | 'paused' | 'going back' | 'stopping' | 'no microphone'

/** While sound is being recorded or could be at the next key. */
export const isUnderWay = (state: SessionState) => state === 'recording' || state === 'paused' || state === 'going back'

export interface RecordingSession {
  state: SessionState
  microphones: Microphone[]
  microphone: string | null
  choose(id: string): void
  /** Begins to record, after a count-down where one is wanted; ends what is under way. */
  toggle(how: { isContinuous: boolean; countdown: number }): Promise<void>
  /** Seconds left of the count-down. */
  count: number
  pauseOrResume(): Promise<void>
  /** After a slip: back to the last pause, a run-up, and on. */
  pickUp(): Promise<void>
  /** @param pressed when it was told, as events tell it (`timeStamp`) */
  mark(telling: Telling, pressed: number): Promise<void>
  /** Told by keys in the recording that goes on, or in the last one. */
  marks: Mark[]
  /** Of the recording that goes on, or of the last one. */
  takeId: string | null
  /** Recording that was made straight through last, by id; null when a slide was recorded. */
  continuousTakeId: string | null
  level: LevelFeed
  /** Of the recording that goes on, or of the last one. */
  seconds: number
  upload: UploadReport | null
  /** Address of the last recording's sound, to be listened to at once. */
  heard: string | null
  /** A sentence, when the microphone is in the way. */
  problem: string | null
}

export function useRecordingSession(lectureId: string, slideId: string): RecordingSession {
  const [count, setCount] = useState(0)
  const [marks, setMarks] = useState<Mark[]>([])
  const isContinuous = useRef(false)
  const [takeId, setTakeId] = useState<string | null>(null)
  const [lastContinuous, setLastContinuous] = useState<string | null>(null)
  const counting = useRef<ReturnType<typeof setTimeout>>(undefined)
  const cancel = useRef(() => {})
  const [state, setState] = useState<SessionState>('opening')
  const [microphones, setMicrophones] = useState<Microphone[]>([])
  const [microphone, setMicrophone] = useState<string | null>(null)
  const [problem, setProblem] = useState<string | null>(null)
  const [upload, setUpload] = useState<UploadReport | null>(null)
  const [seconds, setSeconds] = useState(0)
  const [heard, setHeard] = useState<string | null>(null)
  const level = useRef<LevelFeed>(undefined)
  level.current ??= keepLevels()
  const input = useRef<Input | null>(null)
  const recording = useRef<Recording | null>(null)
  /** Counts recordings: the one before may still be on its way when the next has begun. */
  const recorded = useRef(0)
  /** Counts choices: an input that opens after another one was chosen is closed again. */
  const choice = useRef(0)

  const stop = useCallback(async () => {
    const current = recording.current
    if (!current) return
    recording.current = null
    setState('stopping')
    const { sound, seconds: length } = await current.stop()
    setLastContinuous(isContinuous.current ? current.takeId : null)
    setSeconds(length)
    setHeard(URL.createObjectURL(sound))
    setState(input.current ? 'ready' : 'no microphone')
  }, [])

  /** Opens a microphone; the one before is closed. */
  const open = useCallback(
    async (wanted: string | null) => {
      const mine = ++choice.current
      setState('opening')
      setProblem(null)
      const before = input.current
      input.current = null
      await before?.close()
      let known = await listMicrophones()
      if (mine !== choice.current) return
      setMicrophones(known)
      try {
        if (!preferredMicrophone(known, wanted ?? undefined)) {
          // a browser that was not asked yet may list nothing
          await askForMicrophone()
          known = await listMicrophones()
          if (mine !== choice.current) return
          setMicrophones(known)
        }
        const preferred = preferredMicrophone(known, wanted ?? undefined)
        if (!preferred) throw new MicrophoneProblem(NONE_FOUND)
        setMicrophone(preferred.id)
        const opened = await openInput(preferred)
        if (mine !== choice.current) return void opened.close()
        input.current = opened
        opened.onLevel = (heardLevel) => level.current!.tell(heardLevel)
        opened.onLost = () => {
          setProblem(
            'The microphone was disconnected. What you said until then is kept. Plug it in again, or choose another one.',
          )
          input.current = null
          // the audio thread hands over its last samples before it is closed
          void stop()
            .then(() => opened.close())
            .then(() => setState('no microphone'))
        }
        setState('ready')
        const named = await listMicrophones() // names are known once one was opened
        if (mine === choice.current) setMicrophones(named)
      } catch (error) {
        if (mine !== choice.current) return
        setProblem((error as Error).message)
        setState('no microphone')
      }
    },
    [stop],
  )

  useEffect(() => {
    void open(null)
    return () => {
      choice.current++
      cancel.current()
      void stop().then(() => input.current?.close())
    }
  }, [open, stop])

  const underWay = isUnderWay(state)
  useEffect(() => {
    if (!underWay) return
    const timer = setInterval(() => setSeconds(recording.current?.seconds() ?? 0), 100)
    const warn = (event: BeforeUnloadEvent) => event.preventDefault()
    window.addEventListener('beforeunload', warn)
    const lock = navigator.wakeLock?.request('screen').catch(() => null)
    return () => {
      clearInterval(timer)
      window.removeEventListener('beforeunload', warn)
      void lock?.then((l) => l?.release())
    }
  }, [underWay])

  // another slide begins with a clean clock
  // biome-ignore lint/correctness/useExhaustiveDependencies: the slide is what it depends on
  useEffect(() => {
    // straight through, the clock goes on from slide to slide
    if (isContinuous.current && recording.current) return
    setSeconds(0)
    setHeard(null)
    setUpload(null)
    setMarks([])
  }, [slideId])

  useEffect(() => () => void (heard && URL.revokeObjectURL(heard)), [heard])

  return {
    state,
    microphones,
    microphone,
    problem,
    upload,
    seconds,
    heard,
    level: level.current,
    choose(id) {
      chooseMicrophone(id)
      void open(id)
    },
    count,
    marks,
    takeId,
    continuousTakeId: lastContinuous,
    async toggle(how) {
      if (state === 'counting') {
        clearTimeout(counting.current)
        cancel.current()
        setState('ready')
        return
      }
      if (isUnderWay(state)) return stop()
      if (state !== 'ready' || !input.current) return
      setSeconds(0)
      setHeard(null)
      setUpload(null)
      setMarks([])
      for (let left = how.countdown; left > 0; left--) {
        setCount(left)
        setState('counting')
        const cancelled = await new Promise<boolean>((resolve) => {
          counting.current = setTimeout(() => resolve(false), 1000)
          cancel.current = () => resolve(true)
        })
        if (cancelled || !input.current) return
      }
      isContinuous.current = how.isContinuous
      try {
        const mine = ++recorded.current
        const tell = (report: UploadReport) => {
          if (mine === recorded.current) setUpload(report)
          // of a take before the one that is shown: what is refused is said all the same
          else if (report.state === 'refused') toast.error(report.problem, { duration: 12_000 })
        }
        recording.current = await input.current.record({ slideId, lectureId, isContinuous: how.isContinuous }, tell)
        setTakeId(recording.current.takeId)
        setState('recording')
      } catch (error) {
        setState('ready')
        if (error instanceof MicrophoneProblem) toast.error(error.message)
        else toast.error('This browser cannot store what is recorded. Leave private browsing, or free some space, and try again.')
      }
    },
    async pauseOrResume() {
      const current = recording.current
      if (!current) return
      if (state === 'paused') {
        await current.resume()
        setState('recording')
      } else if (state === 'recording') {
        setState('paused')
        await current.pause()
      }
    },
    async pickUp() {
      const current = recording.current
      if (!current || (state !== 'recording' && state !== 'paused')) return
      setState('going back')
      await current.pickUp(() => {})
      // stopped meanwhile
      if (recording.current === current) setState('recording')
    },
    async mark(telling, pressed) {
      const mark = await recording.current?.mark(telling, pressed)
      if (mark) setMarks((before) => [...before, mark])
    },
  }
}
