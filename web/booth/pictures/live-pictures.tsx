/** What is filmed, as it is seen now: the shared screen instead of the slide, and the teacher in the corner. */
import { useEffect, useRef } from 'react'
import type { Lecture } from '#core/model/lecture.ts'
import {
  SMALL_PICTURE_MARGIN,
  SMALL_PICTURE_SIZES,
  type SmallPicture,
  SQUARE_CORNER,
  smallPictureOn,
} from '#core/model/moving/small-picture.ts'
import type { Slide } from '#core/model/slide.ts'
import { say } from '#core/words/say.ts'
import type { SessionView } from '../session/use-recording-session.ts'

function Live({ stream, label, className, style }: { stream: MediaStream; label: string; className: string; style?: object }) {
  const video = useRef<HTMLVideoElement>(null)
  useEffect(() => {
    if (video.current) video.current.srcObject = stream
  }, [stream])
  return <video ref={video} autoPlay muted playsInline aria-label={label} className={className} style={style} />
}

/** Where it will be seen, and in which shape. */
function placeOf({ corner, size, edge, isMirrored }: SmallPicture) {
  const margin = `${SMALL_PICTURE_MARGIN * 100}%`
  return {
    height: `${SMALL_PICTURE_SIZES[size] * 100}%`,
    aspectRatio: edge === 'round' ? '1' : '16 / 9',
    borderRadius: edge === 'round' ? '50%' : `${SQUARE_CORNER * 100}%`,
    transform: isMirrored ? 'scaleX(-1)' : undefined,
    [corner.startsWith('top') ? 'top' : 'bottom']: margin,
    [corner.endsWith('left') ? 'left' : 'right']: `calc(${margin} * 9 / 16)`,
  }
}

export function LivePictures({ lecture, slide, session }: { lecture: Lecture; slide: Slide; session: SessionView }) {
  const { screen, screenStream, cameraStream } = session
  const shown = lecture.slides.filter((one) => !one.hidden)
  const place = { index: shown.indexOf(slide), count: shown.length }
  const small = smallPictureOn(lecture.smallPicture, slide.smallPicture, place)
  return (
    // the slide's corners are those of the picture that is made, in every language
    <div dir="ltr">
      {screen === 'shown' && screenStream && (
        <Live
          stream={screenStream}
          label={say('The screen that is shared')}
          className="absolute inset-0 size-full bg-black object-contain"
        />
      )}
      {cameraStream && (
        <Live
          stream={cameraStream}
          label={small ? say('Your small picture') : say('Your small picture, which is not shown on this slide')}
          className={`absolute object-cover ${small ? '' : 'opacity-40 grayscale'}`}
          style={placeOf(small ?? lecture.smallPicture)}
        />
      )}
    </div>
  )
}
