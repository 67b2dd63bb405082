/** What is asked or shown before everything else: the page behind it waits, and focus goes back to where it was. */

import * as Radix from '@radix-ui/react-dialog'
import { type ComponentProps, type FormEvent, type ReactNode, useState } from 'react'
import { say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'

interface DialogProps {
  title: string
  /** Beside the title. */
  beside?: ReactNode
  /** How wide it may be: a class. */
  width: string
  /** How its content stands: classes. */
  layout?: string
  onClose: () => void
  /** Given, the box is a form. */
  onSubmit?: (event: FormEvent<HTMLFormElement>) => void
  children: ReactNode
}

type BoxProps = Omit<ComponentProps<'form'>, 'onSubmit'> & Pick<DialogProps, 'onSubmit'>

/** A form where something is to be sent, else a plain box. */
const Box = ({ onSubmit, ...rest }: BoxProps) =>
  onSubmit ? (
    <form
      {...rest}
      onSubmit={(event) => {
        event.preventDefault()
        onSubmit(event)
      }}
    />
  ) : (
    <div {...(rest as ComponentProps<'div'>)} />
  )

/** Shown for as long as it is rendered. */
export function Dialog({ title, beside, width, layout, onClose, onSubmit, children }: DialogProps) {
  const [opener] = useState(() => document.activeElement)
  return (
    <Radix.Root open onOpenChange={(open) => open || onClose()}>
      {/* in the colours of the place it is opened in: the booth is dark in every theme */}
      <Radix.Portal container={document.querySelector<HTMLElement>('[data-fills-window]')}>
        <Radix.Overlay className="modal modal-open">
          <Radix.Content
            className={`modal-box ${width}`}
            aria-describedby={undefined}
            // what was chosen in it is not lost by a press beside it
            onPointerDownOutside={(event) => event.preventDefault()}
            onCloseAutoFocus={(event) => {
              event.preventDefault()
              if (opener instanceof HTMLElement) opener.focus()
            }}
          >
            <div className="mb-3 flex items-center justify-between gap-3">
              <Radix.Title className="font-read text-xl font-semibold">{title}</Radix.Title>
              {beside}
            </div>
            <Box className={layout} onSubmit={onSubmit}>
              {children}
            </Box>
          </Radix.Content>
        </Radix.Overlay>
      </Radix.Portal>
    </Radix.Root>
  )
}

/** The two ways out of a dialog that asks for something. */
export function DialogButtons({ keep, disabled = false, onLeave }: { keep: string; disabled?: boolean; onLeave: () => void }) {
  return (
    <p className="mt-1 flex gap-2">
      <Button type="submit" kind="primary" disabled={disabled}>
        {keep}
      </Button>
      <Button kind="ghost" onClick={onLeave}>
        {say('Leave it')}
      </Button>
    </p>
  )
}
