import { Play, Square } from 'lucide-react'
import { say } from '#core/words/say.ts'
import { togglePlay, usePlaying } from '#web/playback/sound.ts'

export function PlayButton({ url, label, className = '' }: { url: string; label: string; className?: string }) {
  const playing = usePlaying() === url
  return (
    <button
      type="button"
      className={`btn btn-square btn-sm btn-ghost ${className}`}
      aria-label={playing ? say('Stop {label}', { label }) : say('Listen to {label}', { label })}
      onClick={() => togglePlay(url)}
    >
      {playing ? <Square size={15} fill="currentColor" aria-hidden /> : <Play size={16} fill="currentColor" aria-hidden />}
    </button>
  )
}
