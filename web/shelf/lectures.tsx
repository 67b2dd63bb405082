/** The lectures of the shelf, those that are sought, and what of them cannot be read. */

import { TriangleAlert } from 'lucide-react'
import { say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { Loading } from '#web/components/loading.tsx'
import { sentenceOf } from '#web/data/api.ts'
import { Entry } from './entry.tsx'
import { ShelfHead } from './shelf-head.tsx'
import type { useShelf } from './use-shelf.ts'

/** So few are seen without being sought. */
const FEW = 5

export function Lectures({ shown }: { shown: ReturnType<typeof useShelf> }) {
  const { asked, ask, isChosen, first, entries, unreadable, error, isLoading, more } = shown
  return (
    <>
      {isLoading && <Loading what={say('your lectures')} />}
      {(isChosen || (first && first.onShelf > FEW)) && <ShelfHead asked={asked} total={first?.total ?? null} onAsk={ask} />}
      {error && <p role="alert">{sentenceOf(error)}</p>}
      {entries.length > 0 && (
        <ul aria-label={say('Lectures')}>
          {entries.map((entry) => (
            <Entry key={entry.id} entry={entry} />
          ))}
        </ul>
      )}
      {first?.isAll === false && (
        <p role="status" className="py-3 text-sm">
          {say('The words of some slides are still being read: more may be found in a minute.')}
        </p>
      )}
      {isChosen && first?.total === 0 && first.isAll && (
        <p className="py-8">{say('No lecture is like this. Fewer or other words may find more.')}</p>
      )}
      {unreadable.map((lecture) => (
        <p key={lecture.id} role="alert" className="flex items-start gap-3 border-b border-base-300 py-5">
          <TriangleAlert size={18} className="mt-0.5 shrink-0 text-error" aria-hidden />
          <span>
            <bdi className="font-read font-bold">{lecture.title}</bdi>: {say(lecture.problem)}
          </span>
        </p>
      ))}
      {more && (
        <p className="py-5">
          <Button size="md" disabled={more.isComing} onClick={more.fetch}>
            {say('More lectures')}
          </Button>
        </p>
      )}
    </>
  )
}
