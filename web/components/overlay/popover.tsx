/** What a press on something shows beside it: it closes by Esc, by a press elsewhere, and when focus goes elsewhere. */

import * as Radix from '@radix-ui/react-popover'
import { type ReactNode, type RefObject, useRef } from 'react'

interface PopoverProps {
  /** What it tells of, for those who do not see where it stands. */
  label: string
  /** The button that opens it, and closes it again. */
  anchor: RefObject<HTMLButtonElement | null>
  onClose: () => void
  children: ReactNode
}

/** Shown for as long as it is rendered. */
export function Popover({ label, anchor, onClose, children }: PopoverProps) {
  const isLeft = useRef(false)
  return (
    <Radix.Root open onOpenChange={(open) => open || onClose()}>
      <Radix.Anchor virtualRef={anchor as RefObject<HTMLButtonElement>} />
      <Radix.Portal>
        <Radix.Content
          aria-label={label}
          align="end"
          sideOffset={4}
          collisionPadding={8}
          className="z-40 w-72 rounded-md border border-edge bg-base-100 p-3 text-sm shadow-lg"
          onInteractOutside={(event) => {
            // the button closes it by itself
            if (anchor.current?.contains(event.target as Node)) event.preventDefault()
            else isLeft.current = true
          }}
          onCloseAutoFocus={(event) => {
            event.preventDefault()
            if (!isLeft.current) anchor.current?.focus()
          }}
        >
          {children}
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  )
}
