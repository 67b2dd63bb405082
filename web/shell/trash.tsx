/** The way to what was deleted. */
import { Trash2 } from 'lucide-react'
import { Suspense, useState } from 'react'
import { say } from '#core/words/say.ts'
import { soon } from '#web/components/soon.ts'

const TrashDialog = soon(async () => (await import('./trash-dialog.tsx')).TrashDialog)

export function TrashButton({ lectureId }: { lectureId: string | null }) {
  const [open, setOpen] = useState(false)
  return (
    <>
      <button
        type="button"
        className="rounded p-1 text-base-content/75 hover:text-base-content"
        aria-label={say('Trash')}
        title={say('What was deleted in the last 30 days')}
        onClick={() => setOpen(true)}
      >
        <Trash2 size={19} aria-hidden />
      </button>
      <Suspense>{open && <TrashDialog lectureId={lectureId} onClose={() => setOpen(false)} />}</Suspense>
    </>
  )
}
