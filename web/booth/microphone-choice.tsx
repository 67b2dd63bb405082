import { useState } from 'react'
import { CHECKED_KEY, MicrophoneCheck } from '#web/microphone/microphone-check.tsx'
import { chosenMicrophone } from '#web/shared/recorder/microphones.ts'
import { isUnderWay, type Sitting } from './use-sitting.ts'

export function MicrophoneChoice({ sitting }: { sitting: Sitting }) {
  const [checking, setChecking] = useState(false)
  const busy = isUnderWay(sitting.state) || sitting.state === 'stopping'
  const fresh = localStorage.getItem(CHECKED_KEY) === null
  return (
    <>
      <button
        type="button"
        disabled={busy}
        className={`whitespace-nowrap ${fresh ? 'btn btn-xs btn-secondary' : 'link'}`}
        onClick={() => setChecking(true)}
      >
        Try it out
      </button>
      {checking && (
        <MicrophoneCheck
          onClose={() => {
            setChecking(false)
            const chosen = chosenMicrophone()
            if (chosen && chosen !== sitting.microphone) sitting.choose(chosen)
          }}
        />
      )}
      <label className="flex items-center gap-2">
        Microphone
        <select
          className="select select-sm max-w-64 border-edge bg-base-100"
          value={sitting.microphone ?? ''}
          disabled={busy}
          onChange={(event) => sitting.choose(event.target.value)}
        >
          {sitting.microphone === null && <option value="">none chosen</option>}
          {sitting.microphones.map((m) => (
            <option key={m.id} value={m.id}>
              {m.name}
            </option>
          ))}
        </select>
      </label>
    </>
  )
}
