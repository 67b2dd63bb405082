import { Suspense, useState } from 'react'
import { say } from '#core/words/say.ts'
import { soon } from '#web/components/soon.ts'
import { MicrophoneSelect } from '#web/lecture-ui/microphone-select.tsx'
import { CHECKED_KEY } from '#web/microphone/checked.ts'
import { chosenMicrophone } from '#web/recorder/input/microphones.ts'
import { isUnderWay } from '#web/recorder/recording-session.ts'
import type { SessionView } from './session/use-recording-session.ts'

const MicrophoneCheck = soon(async () => (await import('#web/microphone/microphone-check.tsx')).MicrophoneCheck)

export function MicrophoneChoice({ session }: { session: SessionView }) {
  const [checking, setChecking] = useState(false)
  const busy = isUnderWay(session.state) || session.state === 'stopping'
  const fresh = localStorage.getItem(CHECKED_KEY) === null
  return (
    <>
      <button
        type="button"
        disabled={busy}
        className={`whitespace-nowrap ${fresh ? 'btn btn-xs btn-secondary' : 'link'}`}
        onClick={() => setChecking(true)}
      >
        {say('Try it out')}
      </button>
      <Suspense>
        {checking && (
          <MicrophoneCheck
            onClose={() => {
              setChecking(false)
              const chosen = chosenMicrophone()
              if (chosen && chosen !== session.microphone) session.choose(chosen)
            }}
          />
        )}
      </Suspense>
      <MicrophoneSelect
        row
        microphones={session.microphones}
        chosen={session.microphone}
        disabled={busy}
        onChoose={(id) => session.choose(id)}
      />
    </>
  )
}
