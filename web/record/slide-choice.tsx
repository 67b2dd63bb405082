/** The slides that one was asked for, and which of them one has sent something for. */
import { Check } from 'lucide-react'
import { say } from '#core/words/say.ts'
import { linkThumbnail, type OwnBooth } from '#web/data/endpoints/voices/record.ts'
import type { LinkVoice } from '#web/recorder/take-requests.ts'
import type { GuestActs } from './use-guest-acts.ts'

interface SlideChoiceProps {
  booth: OwnBooth
  voice: LinkVoice
  acts: GuestActs
  at: number
}

export function SlideChoice({ booth, voice, acts, at }: SlideChoiceProps) {
  const isSent = (slideId: string) => booth.recordings.some((one) => one.slideId === slideId && one.state === 'sent')
  return (
    <ol aria-label={say('Slides')} className="flex max-h-full max-w-64 flex-wrap content-start gap-2 overflow-auto p-1">
      {booth.slides.map((slide, i) => (
        <li key={slide.id}>
          <button
            type="button"
            disabled={acts.isBusy}
            aria-current={i === at ? 'true' : undefined}
            aria-label={
              isSent(slide.id)
                ? say('Slide {number}: sent', { number: slide.number })
                : say('Slide {number}: nothing sent yet', { number: slide.number })
            }
            onClick={() => acts.go(i)}
            className={`relative block rounded-sm border-2 ${i === at ? 'border-primary' : 'border-transparent'}`}
          >
            <img
              src={linkThumbnail(voice.token, slide.steps[0]!.thumbnail)}
              alt=""
              width={88}
              height={50}
              className="h-12.5 w-22 bg-white object-contain"
            />
            {isSent(slide.id) && (
              <span className="absolute end-0.5 bottom-0.5 rounded-full bg-success p-0.5 text-success-content">
                <Check size={12} aria-hidden />
              </span>
            )}
          </button>
        </li>
      ))}
    </ol>
  )
}
