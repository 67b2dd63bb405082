/** Opens who may do what to a lecture. */

import { Users } from 'lucide-react'
import { lazy, Suspense, useState } from 'react'
import { say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'

const ShareDialog = lazy(async () => ({ default: (await import('./share-dialog.tsx')).ShareDialog }))

export function ShareButton({ lectureId }: { lectureId: string }) {
  const [open, setOpen] = useState(false)
  return (
    <>
      <Button kind="ghost" square aria-label={say('Share')} title={say('Share')} onClick={() => setOpen(true)}>
        <Users size={19} aria-hidden />
      </Button>
      <Suspense>{open && <ShareDialog lectureId={lectureId} onClose={() => setOpen(false)} />}</Suspense>
    </>
  )
}
