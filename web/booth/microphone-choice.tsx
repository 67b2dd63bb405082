import { useState } from 'react'
import { MicrophoneSelect } from '#web/lecture-ui/microphone-select.tsx'
import { CHECKED_KEY, MicrophoneCheck } from '#web/microphone/microphone-check.tsx'
import { chosenMicrophone } from '#web/recorder/microphones.ts'
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
      <MicrophoneSelect
        row
        microphones={sitting.microphones}
        chosen={sitting.microphone}
        disabled={busy}
        onChoose={(id) => sitting.choose(id)}
      />
    </>
  )
}
