/** A link that is shown once: it is kept nowhere. */
import { Copy } from 'lucide-react'
import { say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { copyText } from '#web/components/copy-text.ts'
import { Dialog } from '#web/components/overlay/dialog.tsx'

export interface OneLinkMade {
  token: string
  /** Whether a letter with it was sent; null where no mail is set up, or no address was given. */
  mailed: boolean | null
}

interface OneLinkProps {
  title: string
  says: string
  link: OneLinkMade
  onClose: () => void
}

export function OneLink({ title, says, link, onClose }: OneLinkProps) {
  const address = `${location.origin}/join/${link.token}`
  return (
    <Dialog title={title} width="max-w-lg" layout="grid gap-3" onClose={onClose}>
      {link.mailed === true && (
        <p>{say('A letter with this link was sent. If it does not come, send the link yourself; it is shown only now.')}</p>
      )}
      {link.mailed === false && (
        <p role="alert" className="text-error">
          {say('The mail server did not take the letter.')}
        </p>
      )}
      {link.mailed !== true && <p>{says}</p>}
      <label className="grid gap-1 text-sm">
        <span className="font-medium">{say('Link')}</span>
        <input
          readOnly
          dir="ltr"
          className="input w-full border-edge"
          value={address}
          onFocus={({ target }) => target.select()}
        />
      </label>
      <p className="flex gap-2">
        <Button
          kind="primary"
          onClick={() =>
            void copyText(address, say('The link is copied.'), say('The link could not be copied. Mark it and copy it.'))
          }
        >
          <Copy size={15} aria-hidden /> {say('Copy the link')}
        </Button>
        <Button kind="ghost" onClick={onClose}>
          {say('Done')}
        </Button>
      </p>
    </Dialog>
  )
}
