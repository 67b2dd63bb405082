/** Places in a take that learners can go to: entries under the slide's chapter. */

import { Bookmark as BookmarkIcon, X } from 'lucide-react'
import { useState } from 'react'
import type { Lecture } from '#core/model/lecture.ts'
import type { Bookmark } from '#core/model/marks.ts'
import type { Take } from '#core/model/take.ts'
import { say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { clock } from '#web/components/format.ts'
import { editOrTell } from '#web/data/history.ts'
import { useAppDispatch } from '#web/data/store.ts'

interface BookmarksProps {
  lecture: Lecture
  take: Take
  slideNumber: number
  /** Seconds of the take. */
  moment: number
  onSeek: (moment: number) => void
}

function Name({ bookmark, onName }: { bookmark: Bookmark; onName: (title: string) => void }) {
  const [text, setText] = useState(bookmark.title)
  const keep = () => {
    const title = text.trim()
    if (title === '') setText(bookmark.title)
    else if (title !== bookmark.title) onName(title)
  }
  return (
    <input
      className="input input-xs w-44 border-edge bg-base-100"
      aria-label={say('Name of the bookmark at {at}', { at: clock(bookmark.at) })}
      maxLength={120}
      value={text}
      onChange={(event) => setText(event.target.value)}
      onBlur={keep}
      onKeyDown={(event) => event.key === 'Enter' && keep()}
    />
  )
}

export function Bookmarks({ lecture, take, slideNumber, moment, onSeek }: BookmarksProps) {
  const dispatch = useAppDispatch()
  const set = (bookmarks: Bookmark[], label: string) =>
    void dispatch(
      editOrTell({
        lectureId: lecture.id,
        label: say('{label} on slide {slideNumber}', { label, slideNumber }),
        forth: [{ kind: 'bookmarks', takeId: take.id, bookmarks: bookmarks.toSorted((a, b) => a.at - b.at) }],
        back: [{ kind: 'bookmarks', takeId: take.id, bookmarks: take.bookmarks }],
      }),
    )
  return (
    <div className="flex flex-wrap items-center gap-2 py-1 text-sm">
      <Button
        size="xs"
        onClick={() =>
          set(
            [...take.bookmarks, { at: moment, title: say('Bookmark {bookmarks}', { bookmarks: take.bookmarks.length + 1 }) }],
            say('a bookmark'),
          )
        }
      >
        <BookmarkIcon size={13} aria-hidden /> {say('Bookmark here')}
      </Button>
      {take.bookmarks.map((bookmark) => (
        <span key={`${bookmark.at} ${bookmark.title}`} className="flex items-center gap-1">
          <button type="button" className="link" onClick={() => onSeek(bookmark.at)}>
            {clock(bookmark.at)}
          </button>
          <Name
            bookmark={bookmark}
            onName={(title) =>
              set(
                take.bookmarks.map((b) => (b === bookmark ? { ...b, title } : b)),
                say('name of a bookmark'),
              )
            }
          />
          <Button
            kind="ghost"
            size="xs"
            square
            aria-label={say('Take the bookmark “{title}” away', { title: bookmark.title })}
            onClick={() =>
              set(
                take.bookmarks.filter((b) => b !== bookmark),
                say('taking a bookmark away'),
              )
            }
          >
            <X size={13} aria-hidden />
          </Button>
        </span>
      ))}
    </div>
  )
}
