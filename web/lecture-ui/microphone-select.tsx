/** The inputs to choose from: devices, and the practice microphone with its scenes inside. */

import { Mic } from 'lucide-react'
import { say } from '#core/words/say.ts'
import type { Microphone } from '#web/recorder/input/microphones.ts'
import { isPracticeMicrophone, practiceScenes, USUAL_SCENE } from '#web/recorder/input/practice-microphone.ts'

const SELECT = 'select select-sm border-edge bg-base-100'

/** Devices, then the practice microphone once. */
export const listedOnce = (microphones: readonly Microphone[]) =>
  microphones.filter(({ id }) => !isPracticeMicrophone(id) || id === USUAL_SCENE)

interface MicrophoneSelectProps {
  microphones: readonly Microphone[]
  chosen: string | null
  disabled: boolean
  onChoose: (id: string) => void
  /** Beside each other, or below. */
  row?: boolean
}

export function MicrophoneSelect({ microphones, chosen, disabled, onChoose, row = false }: MicrophoneSelectProps) {
  const practising = chosen !== null && isPracticeMicrophone(chosen)
  return (
    <span className={row ? 'flex min-w-0 items-center gap-2 max-sm:flex-wrap' : 'grid gap-2'}>
      <label className={row ? 'flex items-center gap-2' : 'grid gap-1 text-sm'}>
        <span className={row ? 'sr-only' : 'font-medium'}>{say('Microphone')}</span>
        {row && <Mic size={16} aria-hidden className="shrink-0" />}
        <select
          className={`${SELECT} ${row ? 'w-48' : 'w-full'}`}
          value={practising ? USUAL_SCENE : (chosen ?? '')}
          disabled={disabled}
          onChange={({ target }) => onChoose(target.value)}
        >
          {chosen === null && <option value="">{say('none found: choose one')}</option>}
          {listedOnce(microphones).map(({ id, name }) => (
            <option key={id} value={id}>
              {name}
            </option>
          ))}
        </select>
      </label>
      {practising && <SceneSelect chosen={chosen} disabled={disabled} onChoose={onChoose} />}
    </span>
  )
}

/** In which room the practice microphone stands. */
export function SceneSelect({ chosen, disabled, onChoose }: Pick<MicrophoneSelectProps, 'chosen' | 'disabled' | 'onChoose'>) {
  return (
    <select
      aria-label={say('Practice scene')}
      className={`${SELECT} w-auto min-w-36`}
      value={chosen ?? ''}
      disabled={disabled}
      onChange={({ target }) => onChoose(target.value)}
    >
      {practiceScenes().map(({ id, says }) => (
        <option key={id} value={id}>
          {says}
        </option>
      ))}
    </select>
  )
}
