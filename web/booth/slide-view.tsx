/** The slide that is spoken to, what is happening over it, its takes, and the slide after it. */

import { ASPECT } from '#core/edition/films.ts'
import type { Lecture } from '#core/model/lecture.ts'
import type { Step } from '#core/model/slide.ts'
import { say } from '#core/words/say.ts'
import { pictureUrl, thumbnailUrl } from '#web/data/api.ts'
import { TakeList } from '#web/lecture-ui/take-list.tsx'
import { isUnderWay } from '#web/recorder/recording-session.ts'
import { Banner } from './banner.tsx'
import { BoothFilms } from './pictures/booth-films.tsx'
import { LivePictures } from './pictures/live-pictures.tsx'
import { PictureBar } from './pictures/picture-bar.tsx'
import type { BoothActs } from './session/use-booth-acts.ts'
import type { PositionInDeck } from './session/use-position-in-deck.ts'
import type { SessionView } from './session/use-recording-session.ts'

/** Of what is seen: the slide, or with screen or camera all of the edition's picture, in whose corner the small one lies. */
export const seenShape = ({ width, height }: Step, { screen, cameraStream }: SessionView): number =>
  screen === 'shown' || cameraStream ? ASPECT : width / height

interface SlideViewProps {
  lecture: Lecture
  session: SessionView
  position: PositionInDeck
  acts: BoothActs
  /** One sentence is said again: nothing goes on to another slide. */
  staysHere: boolean
}

export function SlideView({ lecture, session, position, acts, staysHere }: SlideViewProps) {
  const { slide, step, next } = position
  const picture = slide.steps[step]!
  const own = picture.width / picture.height
  const shape = seenShape(picture, session)
  return (
    <div className="grid min-h-0 grid-rows-[auto_minmax(6rem,1fr)] gap-3">
      <div className="relative overflow-hidden rounded bg-black" style={{ aspectRatio: shape }}>
        <div
          className="absolute inset-0 m-auto"
          // its films stand on it, wherever it lies
          dir="ltr"
          style={{ aspectRatio: own, ...(own < shape ? { height: '100%' } : { width: '100%' }) }}
        >
          <img src={pictureUrl(picture.picture)} alt={slide.altText} className="size-full" />
          <BoothFilms slide={slide} step={step} session={session} />
        </div>
        <LivePictures lecture={lecture} slide={slide} session={session} />
        <Banner session={session} />
        {slide.steps.length > 1 && (
          <p className="absolute end-0 bottom-0 rounded-ss bg-base-100/85 px-2 py-0.5 text-sm">
            {say('Picture {step} of {steps}', { step: step + 1, steps: slide.steps.length })}
          </p>
        )}
      </div>
      <div className="flex min-h-0 gap-4 max-sm:flex-wrap">
        {/* biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls by arrow keys */}
        <section tabIndex={0} aria-label={say('Takes')} className="min-h-0 grow overflow-auto">
          <TakeList lecture={lecture} slide={slide} />
        </section>
        {!staysHere && <PictureBar lecture={lecture} slide={slide} session={session} acts={acts} />}
        {next && (
          <button
            type="button"
            disabled={isUnderWay(session.state) && staysHere}
            onClick={(event) => acts.move(next, event)}
            className="flex shrink-0 items-start gap-3 rounded text-end text-sm disabled:opacity-50"
          >
            <span className="max-w-44">
              <span className="block text-base-content/75">{say('then')}</span>
              <span className="line-clamp-3 font-medium">
                <bdi>{next.title || say('Slide {number}', { number: lecture.slides.indexOf(next) + 1 })}</bdi>
              </span>
            </span>
            <img src={thumbnailUrl(next.steps[0]!.thumbnail)} alt="" width={104} height={58} className="rounded-sm bg-white" />
          </button>
        )}
      </div>
    </div>
  )
}
