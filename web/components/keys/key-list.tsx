/** The list of keys, by the place in which they work. */

import { X } from 'lucide-react'
import { type Message, message, say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { Dialog } from '#web/components/overlay/dialog.tsx'
import { Key } from './key.tsx'

const PLACES: { place: Message; keys: [Message | string, Message][] }[] = [
  {
    place: message('Everywhere'),
    keys: [
      [message('Ctrl or ⌘ + Z'), message('Undo')],
      [message('Shift + Ctrl or ⌘ + Z'), message('Redo')],
      ['?', message('This list')],
    ],
  },
  {
    place: message('Sheet and Sound'),
    keys: [
      [message('Space'), message('Play the lecture, and pause')],
      [message('Page Down, Page Up'), message('On the bar below: next slide, slide before')],
    ],
  },
  {
    place: message('Captions'),
    keys: [[message('Alt + ↓, Alt + ↑'), message('Next and before; the other keys stand on that page')]],
  },
  {
    place: message('Booth'),
    keys: [
      ['R', message('Record, and stop')],
      ['P', message('Rest, and go on')],
      ['U', message('Pick up after a slip')],
      ['W', message('Mark what was said last as wrong')],
      ['B', message('Set a bookmark for learners')],
      ['D', message('Show a screen instead of the slide, and the slide again')],
      ['L', message('Listen to the newest take')],
      [message('→ or Page Down'), message('Next picture or slide; while you record, the next slide is recorded')],
      [message('← or Page Up'), message('Slide before')],
      [message('Esc'), message('Stop; to the sheet')],
    ],
  },
  {
    place: message('Bench'),
    keys: [
      [message('Space'), message('Play the take, and pause')],
      [message('← and →'), message('Move; with Shift, select')],
      [message('X or Delete'), message('Cut the selected stretch out')],
      [message('Enter'), message('Among the words: hear from there, or put back what is struck out')],
      ['B', message('Put the selected stretch back')],
      ['L', message('Hear the selected stretch in a loop')],
      ['T', message('As recorded, and tidied')],
      [message('+ and −, or Ctrl with the wheel'), message('Zoom in and out')],
    ],
  },
]

export function KeyList({ onClose }: { onClose: () => void }) {
  const close = (
    <Button onClick={onClose}>
      <X size={15} aria-hidden /> {say('Close')}
    </Button>
  )
  return (
    <Dialog title={say('Keys')} beside={close} width="max-w-4xl" onClose={onClose}>
      <div className="mt-3 gap-8 md:columns-2">
        {PLACES.map(({ place, keys }) => (
          <section key={place.id} className="mb-4 break-inside-avoid">
            <h3 className="mb-1.5 border-b border-base-300 font-read font-semibold">{say(place)}</h3>
            <dl className="grid grid-cols-[minmax(7rem,auto)_1fr] gap-x-4 gap-y-1.5 text-sm">
              {keys.map(([key, meaning]) => (
                <div key={meaning.id} className="contents">
                  <dt>
                    <Key>{typeof key === 'string' ? key : say(key)}</Key>
                  </dt>
                  <dd>{say(meaning)}</dd>
                </div>
              ))}
            </dl>
          </section>
        ))}
      </div>
    </Dialog>
  )
}
