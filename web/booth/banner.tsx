/** What is happening, in large words over the slide. */
import { say } from '#core/words/say.ts'
import type { SessionView } from './session/use-recording-session.ts'

export function Banner({ session }: { session: SessionView }) {
  const words =
    session.state === 'counting'
      ? String(session.count)
      : session.state === 'paused'
        ? say('Resting')
        : session.state === 'going back'
          ? say('Listen, then go on')
          : null
  if (words === null) return null
  return (
    <div role="status" className="pointer-events-none absolute inset-0 flex items-center justify-center bg-black/55">
      <span className="rounded-lg bg-base-200 px-8 py-4 font-read text-4xl font-semibold">{words}</span>
    </div>
  )
}
