import { isUnderWay, type Sitting } from './use-sitting.ts'

export function MicrophoneChoice({ sitting }: { sitting: Sitting }) {
  return (
    <label className="flex items-center gap-2">
      Microphone
      <select
        className="select select-sm max-w-64 border-edge bg-base-100"
        value={sitting.microphone ?? ''}
        disabled={isUnderWay(sitting.state) || sitting.state === 'stopping'}
        onChange={(event) => sitting.choose(event.target.value)}
      >
        {sitting.microphones.map((m) => (
          <option key={m.id} value={m.id}>
            {m.name}
          </option>
        ))}
      </select>
    </label>
  )
}
