/** The key to record: what it does next stands on it. */
import { say } from '#core/words/say.ts'
import { Key } from '#web/components/keys/key.tsx'
import { isUnderWay } from '#web/recorder/recording-session.ts'
import type { SessionView } from './use-recording-session.ts'

interface RecordKeyProps {
  session: SessionView
  disabled?: boolean
  onPress: () => void
}

export function RecordKey({ session, disabled = false, onPress }: RecordKeyProps) {
  const busy = isUnderWay(session.state)
  const ready = session.state === 'ready' || session.state === 'counting' || busy
  const word = busy
    ? say('Stop')
    : session.state === 'counting'
      ? say('Not yet')
      : session.state === 'stopping'
        ? say('Keeping')
        : say('Record')
  return (
    <button
      type="button"
      disabled={!ready || (disabled && !busy)}
      onClick={onPress}
      className={`flex h-22 min-w-22 flex-col items-center justify-center gap-1 rounded-xl border-3 px-2 font-semibold disabled:opacity-50 ${busy ? 'border-error text-error' : 'border-error bg-error text-error-content'}`}
    >
      {word}
      <Key>R</Key>
    </button>
  )
}
