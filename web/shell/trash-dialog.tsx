/** What was deleted in the last month, each with a button that brings it back. */

import { Undo2 } from 'lucide-react'
import { say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { moment } from '#web/components/format.ts'
import { Loading } from '#web/components/loading.tsx'
import { Dialog } from '#web/components/overlay/dialog.tsx'
import { sentenceOf, type Trashed } from '#web/data/api.ts'
import type { Command } from '#web/data/commands.ts'
import { trashApi } from '#web/data/endpoints/trash.ts'
import { editOrTell } from '#web/data/history.ts'
import { useAppDispatch } from '#web/data/store.ts'

function deletion({ kind, id }: Trashed, deleted: boolean): Command {
  switch (kind) {
    case 'lecture':
      return { kind: 'lecture-deleted', deleted }
    case 'captions':
      return { kind: 'captions-deleted', trackId: id, deleted }
    case 'slide':
      return { kind: 'slide-deleted', id, deleted }
    case 'take':
      return { kind: 'take-deleted', id, deleted }
    case 'film':
      return { kind: 'film-deleted', id, deleted }
    case 'bed':
      return { kind: 'bed-deleted', id, deleted }
    case 'edition':
      return { kind: 'edition-deleted', id, deleted }
  }
}

export function TrashDialog({ lectureId, onClose }: { lectureId: string | null; onClose: () => void }) {
  const dispatch = useAppDispatch()
  const { data: trashed, error, isLoading, refetch } = trashApi.useTrashQuery(lectureId, { refetchOnMountOrArgChange: true })
  const bringBack = async (one: Trashed) => {
    const label = say('bringing back {name}', { name: say(one.name) })
    await dispatch(editOrTell({ lectureId: one.lectureId, label, forth: [deletion(one, false)], back: [deletion(one, true)] }))
    void refetch()
  }
  return (
    <Dialog
      title={lectureId === null ? say('Deleted lectures') : say('Deleted from this lecture')}
      width="max-w-xl"
      layout="grid gap-3"
      onClose={onClose}
    >
      <p className="text-sm text-base-content/75">{say('What was deleted stays here for 30 days.')}</p>
      {isLoading && <Loading what={say('the trash')} />}
      {error && <p role="alert">{sentenceOf(error)}</p>}
      {trashed?.length === 0 && <p>{say('Nothing was deleted.')}</p>}
      <ul aria-label={say('Deleted')} className="max-h-[55vh] overflow-auto">
        {trashed?.map((one) => (
          <li key={`${one.kind} ${one.id}`} className="flex items-center gap-3 border-t border-base-300 py-2">
            <span className="min-w-0 grow">
              <span className="block truncate font-medium">{say(one.name)}</span>
              <span className="text-sm text-base-content/75">
                {say('deleted {deletedAt}', { deletedAt: moment(one.deletedAt) })}
              </span>
            </span>
            <Button aria-label={say('Bring back {name}', { name: say(one.name) })} onClick={() => void bringBack(one)}>
              <Undo2 size={15} aria-hidden className="rtl:-scale-x-100" /> {say('Bring back')}
            </Button>
          </li>
        ))}
      </ul>
      <p>
        <Button onClick={onClose}>{say('Done')}</Button>
      </p>
    </Dialog>
  )
}

/** @param lectureId whose trash; null for that of the shelf */
