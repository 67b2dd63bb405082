import { Bookmark } from 'lucide-react'
import { Fragment } from 'react'
import { toSeconds } from '#core/timing/clocks.ts'
import { say } from '#core/words/say.ts'
import { clock } from '#web/components/format.ts'
import { chapterEnd, chapterTitle, type WatchedEdition } from '#web/watch/edition/edition.ts'

export function Chapters({
  edition,
  moment,
  pictureOf,
  areDue,
  onSeek,
}: {
  edition: WatchedEdition
  moment: number
  pictureOf: (name: string) => string
  /** Pictures are asked for; before, their places are kept. */
  areDue: boolean
  onSeek: (seconds: number) => void
}) {
  return (
    <nav aria-label={say('Slides of this lecture')}>
      <ol className="grid grid-cols-[repeat(auto-fill,minmax(8rem,1fr))] gap-3">
        {edition.chapters.map((chapter, i) => {
          const start = toSeconds(chapter.startSamples)
          const current = moment >= start && moment < chapterEnd(chapter)
          return (
            <Fragment key={chapter.startSamples}>
              {chapter.section && (
                <li className="col-span-full mt-2 font-read text-base font-semibold first:mt-0">
                  <h2>{chapter.section}</h2>
                </li>
              )}
              <li className="text-xs">
                <button
                  type="button"
                  onClick={() => onSeek(start)}
                  aria-current={current ? 'true' : undefined}
                  className="block w-full text-start"
                >
                  <img
                    src={areDue ? pictureOf(chapter.picture) : undefined}
                    // named by its time and title; what the picture shows stands in the transcript
                    alt=""
                    loading="lazy"
                    className={`aspect-video w-full border bg-white object-contain ${current ? 'border-primary outline-2 outline-primary' : 'border-base-300'}`}
                  />
                  <span className="mt-1 flex gap-1.5">
                    <span className="text-base-content/75">{clock(start, 0)}</span>
                    <bdi className="truncate">{chapterTitle(chapter, i)}</bdi>
                  </span>
                </button>
                {(chapter.bookmarks ?? []).map((bookmark) => (
                  <button
                    key={bookmark.startSamples}
                    type="button"
                    onClick={() => onSeek(toSeconds(bookmark.startSamples))}
                    className="mt-1 flex w-full gap-1.5 text-start hover:underline"
                  >
                    <Bookmark size={13} aria-hidden className="mt-px shrink-0 text-primary" />
                    <span className="text-base-content/75">{clock(toSeconds(bookmark.startSamples), 0)}</span>
                    <bdi className="truncate">{bookmark.title}</bdi>
                  </button>
                ))}
              </li>
            </Fragment>
          )
        })}
      </ol>
    </nav>
  )
}
