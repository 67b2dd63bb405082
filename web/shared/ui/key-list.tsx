import { useEffect, useRef } from 'react'

const KEYS: [string, string][] = [
  ['R', 'Booth: record, and stop'],
  ['P', 'Booth: rest, and go on'],
  ['U', 'Booth: pick up after a slip'],
  ['W', 'Booth: mark what was said last as wrong'],
  ['B', 'Booth: set a bookmark for learners'],
  ['L', 'Booth: listen to the newest take'],
  ['→ or Page Down', 'Booth: next picture or slide'],
  ['← or Page Up', 'Booth: slide before'],
  ['Esc', 'Booth: leave'],
  ['Space', 'Play the lecture, and pause; on the bench, the take'],
  ['Page Down, Page Up', 'On the bar below: next slide, slide before'],
  ['← and →', 'Bench: move; with Shift, select'],
  ['X or Delete', 'Bench: cut the selected stretch out'],
  ['B', 'Bench: put the selected stretch back'],
  ['L', 'Bench: hear the selected stretch in a loop'],
  ['T', 'Bench: as recorded, and tidied'],
  ['+ and −, or Ctrl with the wheel', 'Bench: nearer and farther'],
  ['Alt + ↓, Alt + ↑', 'Captions: next and before; the other keys stand on that page'],
  ['Ctrl or ⌘ + Z', 'Undo'],
  ['Shift + Ctrl or ⌘ + Z', 'Redo'],
  ['?', 'This list'],
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
      <div className="modal-box max-w-md">
        <h2 id="keys-title" className="mb-3 font-read text-xl">
          Keys
        </h2>
        <dl className="grid grid-cols-[auto_1fr] gap-x-4 gap-y-2">
          {KEYS.map(([key, meaning]) => (
            <div key={key} className="contents">
              <dt>
                <Key>{key}</Key>
              </dt>
              <dd>{meaning}</dd>
            </div>
          ))}
        </dl>
        <form method="dialog" className="mt-4">
          <button type="submit" className="btn btn-sm border-edge">
            Close
          </button>
        </form>
      </div>
    </dialog>
  )
}
