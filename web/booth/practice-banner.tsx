/** That it is a made-up voice that is recorded: nobody misses it. */
import { Bot } from 'lucide-react'
import { say } from '#core/words/say.ts'
import { isPracticeMicrophone } from '#web/recorder/input/practice-microphone.ts'
import type { SessionView } from './session/use-recording-session.ts'

export const PracticeBanner = ({ session: { microphone } }: { session: SessionView }) =>
  microphone !== null &&
  isPracticeMicrophone(microphone) && (
    <p
      role="status"
      className="mx-5 mb-2 flex items-center gap-3 rounded-md bg-warning px-4 py-1.5 text-lg font-semibold text-warning-content"
    >
      <Bot size={22} aria-hidden /> {say('Practice microphone: a made-up voice is recorded, not yours')}
    </p>
  )
