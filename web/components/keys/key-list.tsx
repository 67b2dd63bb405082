/** The list of keys, by the place in which they work. */
import { X } from 'lucide-react'
import { useEffect, useRef } from 'react'

const PLACES: { place: string; keys: [string, string][] }[] = [
  {
    place: 'Everywhere',
    keys: [
      ['Ctrl or ⌘ + Z', 'Undo'],
      ['Shift + Ctrl or ⌘ + Z', 'Redo'],
      ['?', 'This list'],
    ],
  },
  {
    place: 'Sheet and Sound',
    keys: [
      ['Space', 'Play the lecture, and pause'],
      ['Page Down, Page Up', 'On the bar below: next slide, slide before'],
    ],
  },
  {
    place: 'Captions',
    keys: [['Alt + ↓, Alt + ↑', 'Next and before; the other keys stand on that page']],
  },
  {
    place: 'Booth',
    keys: [
      ['R', 'Record, and stop'],
      ['P', 'Rest, and go on'],
      ['U', 'Pick up after a slip'],
      ['W', 'Mark what was said last as wrong'],
      ['B', 'Set a bookmark for learners'],
      ['L', 'Listen to the newest take'],
      ['→ or Page Down', 'Next picture or slide; while you record, the next slide is recorded'],
      ['← or Page Up', 'Slide before'],
      ['Esc', 'Stop; to the sheet'],
    ],
  },
  {
    place: 'Bench',
    keys: [
      ['Space', 'Play the take, and pause'],
      ['← and →', 'Move; with Shift, select'],
      ['X or Delete', 'Cut the selected stretch out'],
      ['B', 'Put the selected stretch back'],
      ['L', 'Hear the selected stretch in a loop'],
      ['T', 'As recorded, and tidied'],
      ['+ and −, or Ctrl with the wheel', 'Zoom in and out'],
    ],
  },
]

export const Key = ({ children }: { children: string }) => (
  <kbd className="rounded border border-current/40 px-1.5 py-0.5 font-sans text-xs">{children}</kbd>
)

export function KeyList({ open, onClose }: { open: boolean; onClose: () => void }) {
  const dialog = useRef<HTMLDialogElement>(null)
  useEffect(() => {
    if (open) dialog.current?.showModal()
    else dialog.current?.close()
  }, [open])
  return (
    <dialog ref={dialog} onClose={onClose} className="modal" aria-labelledby="keys-title">
      <div className="modal-box max-w-4xl">
        <form method="dialog" className="flex items-center justify-between">
          <h2 id="keys-title" className="font-read text-xl font-semibold">
            Keys
          </h2>
          <button type="submit" className="btn btn-sm border-edge">
            <X size={15} aria-hidden /> Close
          </button>
        </form>
        <div className="mt-3 gap-8 md:columns-2">
          {PLACES.map(({ place, keys }) => (
            <section key={place} className="mb-4 break-inside-avoid">
              <h3 className="mb-1.5 border-b border-base-300 font-read font-semibold">{place}</h3>
              <dl className="grid grid-cols-[minmax(7rem,auto)_1fr] gap-x-4 gap-y-1.5 text-sm">
                {keys.map(([key, meaning]) => (
                  <div key={key} className="contents">
                    <dt>
                      <Key>{key}</Key>
                    </dt>
                    <dd>{meaning}</dd>
                  </div>
                ))}
              </dl>
            </section>
          ))}
        </div>
      </div>
    </dialog>
  )
}
