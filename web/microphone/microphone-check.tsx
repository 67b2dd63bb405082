/** The microphone check: read one sentence, see what the room and the voice are like, compare up to three microphones. */

import { wrap } from 'comlink'
import { CircleAlert, CircleCheck, Mic } from 'lucide-react'
import { useEffect, useRef, useState } from 'react'
import { writeWav } from '#core/audio/signal/wav.ts'
import { type MicrophoneStudy, type Verdict, verdictOf } from '#core/recording/microphone-check.ts'
import { SAMPLE_RATE } from '#core/timing/clocks.ts'
import { message, say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { decibels, inSeconds } from '#web/components/format.ts'
import { Dialog } from '#web/components/overlay/dialog.tsx'
import { MicrophoneSelect } from '#web/lecture-ui/microphone-select.tsx'
import { stopPlay, togglePlay, usePlaying } from '#web/playback/sound.ts'
import { keepFeed } from '#web/recorder/feed.ts'
import {
  askForMicrophone,
  chooseMicrophone,
  chosenMicrophone,
  listMicrophones,
  type Microphone,
  preferredMicrophone,
} from '#web/recorder/input/microphones.ts'
import { isPracticeMicrophone } from '#web/recorder/input/practice-microphone.ts'
import type { Level } from '#web/recorder/recorder.ts'
import { openInput } from '#web/recorder/recorder.ts'
import { CHECKED_KEY } from './checked.ts'
import { LevelBar } from './level-bar.tsx'
import type { StudyWorker } from './study.worker.ts'

const SENTENCE = message(
  'The rain gauge stands in the open, far from the fence. I read it every morning at nine, and write the figure down.',
)
const LISTEN_S = 8
const MOST = 3

interface Tried {
  microphone: Microphone
  study: MicrophoneStudy
  verdict: Verdict
  /** Address of the sentence as it was heard. */
  url: string
}

async function judge(samples: Int16Array): Promise<MicrophoneStudy> {
  const worker = new Worker(new URL('./study.worker.ts', import.meta.url), { type: 'module' })
  try {
    return await wrap<StudyWorker>(worker).study(samples)
  } finally {
    worker.terminate()
  }
}

function Result({ tried, chosen, onChoose }: { tried: Tried; chosen: boolean; onChoose: () => void }) {
  const { microphone, study, verdict, url } = tried
  const playing = usePlaying() === url
  const Icon = verdict.grade === 'good' ? CircleCheck : CircleAlert
  const colour = { good: 'text-success', usable: 'text-secondary', bad: 'text-error' }[verdict.grade]
  const rows: [string, string][] = [
    [say('Voice'), study.voiceDb === null ? say('not heard') : `${decibels(study.voiceDb)}FS`],
    [say('Room'), study.noiseFloorDb === null ? say('no pause to hear it') : `${decibels(study.noiseFloorDb)}FS`],
    [say('Voice over room'), study.overRoomDb === null ? '–' : decibels(study.overRoomDb)],
    [say('Mains hum'), study.humHz === null ? say('none') : say('{hertz} Hz', { hertz: Math.round(study.humHz) })],
    [say('Room dies away in'), study.decaySeconds === null ? say('not heard') : inSeconds(study.decaySeconds, 2)],
  ]
  return (
    <li className={`grid content-start gap-2 rounded-md border p-3 ${chosen ? 'border-primary' : 'border-base-300'}`}>
      <h3 className="truncate font-medium">{microphone.name}</h3>
      <p className={`flex items-start gap-1.5 font-medium ${colour}`}>
        <Icon size={17} aria-hidden className="mt-0.5 shrink-0" /> {verdict.says}
      </p>
      <p className="text-sm">{verdict.advice}</p>
      <dl className="grid grid-cols-2 gap-x-3 text-sm text-base-content/75">
        {rows.map(([what, value]) => (
          <div key={what} className="contents">
            <dt>{what}</dt>
            <dd>{value}</dd>
          </div>
        ))}
      </dl>
      <p className="flex gap-2">
        <Button onClick={() => togglePlay(url)}>{playing ? say('Stop') : say('Hear it')}</Button>
        <Button disabled={chosen} onClick={onChoose}>
          {chosen ? say('In use') : say('Use this one')}
        </Button>
      </p>
    </li>
  )
}

export function MicrophoneCheck({ onClose }: { onClose: () => void }) {
  const [microphones, setMicrophones] = useState<Microphone[]>([])
  const [chosen, setChosen] = useState(chosenMicrophone())
  const [tried, setTried] = useState<Tried[]>([])
  const [state, setState] = useState<'idle' | 'listening' | 'judging'>('idle')
  const [problem, setProblem] = useState<string | null>(null)
  const level = useRef(keepFeed<Level>())
  useEffect(() => {
    const list = () =>
      listMicrophones().then((known) => {
        setMicrophones(known)
        setChosen((now) => preferredMicrophone(known, now ?? undefined)?.id ?? null)
      })
    askForMicrophone()
      .catch(() => {})
      .finally(list)
    return stopPlay
  }, [])
  const microphone = microphones.find((m) => m.id === chosen)

  const listen = async () => {
    if (!microphone) return
    setProblem(null)
    stopPlay()
    setState('listening')
    try {
      const input = await openInput(microphone)
      input.onLevel = (heard) => level.current.tell(heard)
      const samples = await input.sample(LISTEN_S)
      await input.close()
      setState('judging')
      const study = await judge(samples)
      const url = URL.createObjectURL(new Blob([writeWav(samples, SAMPLE_RATE)], { type: 'audio/wav' }))
      const now = { microphone, study, verdict: verdictOf(study), url }
      setTried((before) => [now, ...before.filter((t) => t.microphone.id !== microphone.id)].slice(0, MOST))
      // trying the practice microphone is not choosing it: its voice would be taken for the teacher's
      if (!isPracticeMicrophone(microphone.id)) chooseMicrophone(microphone.id)
      localStorage.setItem(CHECKED_KEY, new Date().toISOString())
    } catch (error) {
      setProblem((error as Error).message)
    } finally {
      setState('idle')
    }
  }
  return (
    <Dialog title={say('Try the microphone')} width="max-w-4xl" layout="grid gap-4" onClose={onClose}>
      <div className="grid grid-cols-[1fr_16rem] items-start gap-6 max-md:grid-cols-1">
        <div className="grid gap-3">
          <p className="text-sm text-base-content/75">
            {say('Sit as you will when you record. Press “Listen for {seconds} seconds”, wait a moment, and read this aloud:', {
              seconds: LISTEN_S,
            })}
          </p>
          <blockquote className="font-read text-xl leading-relaxed">{say(SENTENCE)}</blockquote>
          <LevelBar level={level.current} idle={state !== 'listening'} />
        </div>
        <div className="grid gap-3">
          <MicrophoneSelect microphones={microphones} chosen={chosen} disabled={state !== 'idle'} onChoose={setChosen} />
          <Button kind="primary" size="md" disabled={state !== 'idle' || !microphone} onClick={() => void listen()}>
            <Mic size={17} aria-hidden />
            {
              {
                idle: say('Listen for {seconds} seconds', { seconds: LISTEN_S }),
                listening: say('Listening: read now'),
                judging: say('A moment'),
              }[state]
            }
          </Button>
          <p className="text-sm text-base-content/75">
            {say('Try up to three microphones with the same sentence, and hear them side by side. Nothing of it is kept.')}
          </p>
        </div>
      </div>
      {problem && (
        <p role="alert" className="text-error">
          {problem}
        </p>
      )}
      {tried.length > 0 && (
        <ul className="grid grid-cols-3 gap-3 max-md:grid-cols-1" aria-label={say('Microphones tried')}>
          {tried.map((t) => (
            <Result
              key={t.microphone.id}
              tried={t}
              chosen={t.microphone.id === chosen}
              onChoose={() => {
                setChosen(t.microphone.id)
                chooseMicrophone(t.microphone.id)
              }}
            />
          ))}
        </ul>
      )}
      <p>
        <Button onClick={onClose}>{say('Done')}</Button>
      </p>
    </Dialog>
  )
}
