/** The two ways out of a dialog that asks for something. */
import { say } from '#core/words/say.ts'

export function DialogButtons({ keep, disabled = false, onLeave }: { keep: string; disabled?: boolean; onLeave: () => void }) {
  return (
    <p className="mt-1 flex gap-2">
      <button type="submit" className="btn btn-sm btn-primary" disabled={disabled}>
        {keep}
      </button>
      <button type="button" className="btn btn-sm btn-ghost" onClick={onLeave}>
        {say('Leave it')}
      </button>
    </p>
  )
}
