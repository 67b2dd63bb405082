/** What is filmed beside the voice: a screen that is shown, and a camera, which is off until somebody chooses one. */
import { Camera, MonitorUp } from 'lucide-react'
import { Suspense, useState } from 'react'
import type { Lecture } from '#core/model/lecture.ts'
import type { Slide } from '#core/model/slide.ts'
import { say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { Key } from '#web/components/keys/key.tsx'
import { soon } from '#web/components/soon.ts'
import type { BoothActs } from '../session/use-booth-acts.ts'
import type { SessionView } from '../session/use-recording-session.ts'

const SmallPictureDialog = soon(
  async () => (await import('#web/lecture-ui/small-picture/small-picture-dialog.tsx')).SmallPictureDialog,
)

function ScreenButtons({ session, acts }: { session: SessionView; acts: BoothActs }) {
  const { screen } = session
  const words = {
    off: say('Show a screen'),
    opening: say('Choose a screen'),
    shared: say('Show the screen'),
    shown: say('Back to the slide'),
  }
  return (
    <div className="flex items-center gap-2">
      <MonitorUp size={16} aria-hidden className="shrink-0" />
      <Button
        className="grow justify-between"
        disabled={screen === 'opening' || session.state === 'stopping'}
        title={say('A screen, a window or a tab is recorded with your voice, and seen instead of the slide')}
        onClick={acts.screen}
      >
        {words[screen]} <Key>D</Key>
      </Button>
      {screen === 'off' ? (
        <button type="button" className="link text-sm whitespace-nowrap" onClick={() => void session.toggleScreen(true)}>
          {say('Practice screen')}
        </button>
      ) : (
        screen !== 'opening' && (
          <button type="button" className="link text-sm whitespace-nowrap" onClick={() => void session.endScreen()}>
            {say('End sharing')}
          </button>
        )
      )}
    </div>
  )
}

function CameraChoice({ lecture, slide, session }: { lecture: Lecture; slide: Slide; session: SessionView }) {
  const [changing, setChanging] = useState(false)
  const { camera, cameras } = session
  const NONE = 'none'
  return (
    <div className="flex items-center gap-2">
      <Camera size={16} aria-hidden className="shrink-0" />
      <select
        aria-label={say('Camera')}
        className="select select-sm min-w-0 grow border-edge bg-base-100"
        value={camera ?? NONE}
        disabled={session.state === 'stopping'}
        onChange={({ target }) => void session.chooseCamera(target.value === NONE ? null : target.value)}
      >
        <option value={NONE}>{say('no camera')}</option>
        {cameras.map(({ id, name }) => (
          <option key={id} value={id}>
            {name}
          </option>
        ))}
      </select>
      {camera !== null && (
        <button type="button" className="link text-sm whitespace-nowrap" onClick={() => setChanging(true)}>
          {say('Small picture…')}
        </button>
      )}
      <Suspense>{changing && <SmallPictureDialog lecture={lecture} slide={slide} onClose={() => setChanging(false)} />}</Suspense>
    </div>
  )
}

export function PictureBar(props: { lecture: Lecture; slide: Slide; session: SessionView; acts: BoothActs }) {
  return (
    <section aria-label={say('What is filmed')} className="grid w-72 shrink-0 content-start gap-1.5 max-sm:w-full">
      <ScreenButtons {...props} />
      <CameraChoice {...props} />
    </section>
  )
}
