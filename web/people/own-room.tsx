/** What somebody uses of what they may use: all of it, or only what is nearly used up. */

import { TriangleAlert } from 'lucide-react'
import { NEARLY_ALL, sharesUsed } from '#core/people/quota.ts'
import { figure } from '#core/words/figures.ts'
import { say } from '#core/words/say.ts'
import { peopleApi } from '#web/data/endpoints/people.ts'

function useRoom() {
  const { data } = peopleApi.useMyRoomQuery(undefined, { refetchOnMountOrArgChange: true })
  if (!data) return []
  const { use, quota } = data
  const shares = sharesUsed(use, quota)
  const hours = figure(use.recordedSeconds / 3600, 2)
  const gigabytes = figure(use.editionsBytes / 1e9, 2)
  return [
    {
      kind: 'recorded',
      share: shares.recorded,
      says:
        quota.recordedHours === null
          ? say('{hours} hours of recordings', { hours })
          : say('{hours} of {most} hours of recordings', { hours, most: figure(quota.recordedHours, 2) }),
    },
    {
      kind: 'editions',
      share: shares.editions,
      says:
        quota.editionsGigabytes === null
          ? say('{gigabytes} GB of editions', { gigabytes })
          : say('{gigabytes} of {most} GB of editions', { gigabytes, most: figure(quota.editionsGigabytes, 2) }),
    },
  ]
}

export function OwnRoom() {
  return (
    <ul className="grid max-w-sm gap-2 text-sm" aria-label={say('What you use')}>
      {useRoom().map(({ kind, share, says }) => (
        <li key={kind} className="grid gap-1">
          {says}
          {share !== null && (
            <progress
              className={`progress h-1.5 ${share >= NEARLY_ALL ? 'progress-error' : 'progress-primary'}`}
              value={Math.min(1, share)}
              max={1}
              aria-label={says}
            />
          )}
        </li>
      ))}
    </ul>
  )
}

/** Above the lectures, before all is used. */
export function RoomWarning() {
  const nearly = useRoom().filter(({ share }) => share !== null && share >= NEARLY_ALL)
  if (nearly.length === 0) return null
  return (
    <output className="mb-4 flex items-start gap-2 rounded border border-secondary px-4 py-2 text-sm">
      <TriangleAlert size={16} className="mt-0.5 shrink-0 text-secondary" aria-hidden />
      <span>
        {say('Nearly all that you may use here is used: {what}.', { what: nearly.map(({ says }) => says).join(' · ') })}{' '}
        {say('What you record is kept all the same. Delete what you do not need, or ask an administrator for more.')}
      </span>
    </output>
  )
}
