/** A link that is shown once: it is kept nowhere. */
import { Copy } from 'lucide-react'
import { say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { copyText } from '#web/components/copy-text.ts'
import { Dialog } from '#web/components/overlay/dialog.tsx'

interface OneLinkProps {
  title: string
  says: string
  token: string
  onClose: () => void
}

export function OneLink({ title, says, token, onClose }: OneLinkProps) {
  const address = `${location.origin}/join/${token}`
  return (
    <Dialog title={title} width="max-w-lg" layout="grid gap-3" onClose={onClose}>
      <p>{says}</p>
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
