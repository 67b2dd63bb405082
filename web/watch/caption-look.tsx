/** How captions look, as the learner likes to read them: their size, their place over the picture, their colours. */
import { ALargeSmall } from 'lucide-react'
import { useId, useState } from 'react'
import { type Message, message, say } from '#core/words/say.ts'
import { buttonLook } from '#web/components/button.tsx'
import { recall, remember } from '#web/watch/edition/remember.ts'
import { useClosingDetails } from '#web/watch/use-closing-details.ts'

export interface CaptionLook {
  size: 'small' | 'medium' | 'large'
  place: 'bottom' | 'top'
  colours: 'soft' | 'white on black' | 'yellow on black' | 'black on white'
}
type Part = keyof CaptionLook

/** What can be chosen of each part, the usual one first. */
const CHOICES: { [P in Part]: { title: Message; values: [CaptionLook[P], Message][] } } = {
  size: {
    title: message('Caption size'),
    values: [
      ['medium', message('Size: medium')],
      ['small', message('Size: small')],
      ['large', message('Size: large')],
    ],
  },
  place: {
    title: message('Place of captions'),
    values: [
      ['bottom', message('At the bottom')],
      ['top', message('At the top')],
    ],
  },
  colours: {
    title: message('Colours of captions'),
    values: [
      ['soft', message('Soft')],
      ['white on black', message('White on black')],
      ['yellow on black', message('Yellow on black')],
      ['black on white', message('Black on white')],
    ],
  },
}
const PARTS = Object.keys(CHOICES) as Part[]

/** Of the video's width, so that captions grow with it. */
const SIZES: Record<CaptionLook['size'], string> = {
  small: 'text-[clamp(0.8rem,2.1cqw,1.5rem)]',
  medium: 'text-[clamp(0.95rem,2.8cqw,2rem)]',
  large: 'text-[clamp(1.2rem,3.8cqw,2.8rem)]',
}
const COLOURS: Record<CaptionLook['colours'], string> = {
  soft: 'bg-[#1d2a2eec] text-[#f8f5ee]',
  'white on black': 'bg-black text-white',
  'yellow on black': 'bg-black text-[#ffe94a]',
  'black on white': 'bg-white text-black',
}

export const captionClasses = ({ size, colours }: CaptionLook) => `${SIZES[size]} ${COLOURS[colours]}`

function recalled<P extends Part>(part: P): CaptionLook[P] {
  const known = recall(`caption ${part}`)
  return (CHOICES[part].values.find(([value]) => value === known) ?? CHOICES[part].values[0]!)[0]
}

/** Kept in the browser. */
export function useCaptionLook(): [CaptionLook, <P extends Part>(part: P, value: CaptionLook[P]) => void] {
  const [look, setLook] = useState<CaptionLook>(() => ({
    size: recalled('size'),
    place: recalled('place'),
    colours: recalled('colours'),
  }))
  return [
    look,
    (part, value) => {
      remember(`caption ${part}`, value)
      setLook((now) => ({ ...now, [part]: value }))
    },
  ]
}

export function CaptionLookChoice({ look, onLook }: { look: CaptionLook; onLook: (part: Part, value: never) => void }) {
  const { details, onToggle } = useClosingDetails()
  const id = useId()
  return (
    <details ref={details} onToggle={onToggle} className="dropdown dropdown-top dropdown-end">
      <summary
        className={buttonLook({ kind: 'ghost', square: true })}
        aria-label={say('How captions look')}
        title={say('How captions look')}
      >
        <ALargeSmall size={19} aria-hidden />
      </summary>
      <div className="dropdown-content z-10 grid w-56 gap-2 rounded-md border border-edge bg-base-100 p-3 text-sm shadow">
        {PARTS.map((part) => (
          <div key={part} className="grid gap-1">
            <label htmlFor={`${id} ${part}`}>{say(CHOICES[part].title)}</label>
            <select
              id={`${id} ${part}`}
              className="select select-sm w-full border-edge"
              value={look[part]}
              onChange={(event) => onLook(part, event.target.value as never)}
            >
              {CHOICES[part].values.map(([value, words]) => (
                <option key={value} value={value}>
                  {say(words)}
                </option>
              ))}
            </select>
          </div>
        ))}
      </div>
    </details>
  )
}
