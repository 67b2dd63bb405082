/** A lecture on the shelf: how far it is and what to do next. */

import { Trash2 } from 'lucide-react'
import { Link } from 'react-router'
import { toast } from 'sonner'
import { holds, type Right } from '#core/people/rights.ts'
import { say } from '#core/words/say.ts'
import { Button, buttonLook } from '#web/components/button.tsx'
import { clock } from '#web/components/format.ts'
import { type ShelfEntry, thumbnailUrl } from '#web/data/api.ts'
import { editOrTell, undo } from '#web/data/history.ts'
import { useAppDispatch } from '#web/data/store.ts'

/** Who is alone may do everything. */
const mayDo = ({ right }: ShelfEntry, needed: Right) => right === null || holds(right, needed)

function nextStep(entry: ShelfEntry): { text: string; to: string } {
  const base = `/lectures/${entry.id}`
  if (!mayDo(entry, 'edit')) return { text: say('Look at it'), to: base }
  if (entry.nextToRecord)
    return {
      text: entry.narrated === 0 ? say('Record the first slide') : say('Record the next slide'),
      to: `${base}/booth?slide=${entry.nextToRecord}`,
    }
  if (entry.captioned < entry.slides) return { text: say('Add captions'), to: `${base}/captions` }
  return entry.editions === 0
    ? { text: say('Publish'), to: `${base}/publish` }
    : { text: say('See its editions'), to: `${base}/publish` }
}

function Share({ name, done, of }: { name: string; done: number; of: number }) {
  return (
    <div className="grid grid-cols-[6rem_1fr_auto] items-center gap-2 text-sm">
      <span>{name}</span>
      <progress
        className="progress progress-primary h-1.5"
        value={done}
        max={Math.max(1, of)}
        aria-label={say('Slides: {what}', { what: name })}
      />
      <span className="text-base-content/75">{say('{done} of {of}', { done, of })}</span>
    </div>
  )
}

/** Slides that hold what is sought. */
function FoundSlides({ entry }: { entry: ShelfEntry }) {
  if (entry.found.length === 0) return null
  return (
    <ul className="mt-1 grid gap-1 text-sm" aria-label={say('Slides with these words')}>
      {entry.found.map((slide) => (
        <li key={slide.slideId}>
          <Link to={`/lectures/${entry.id}/slides/${slide.slideId}`} className="hover:underline">
            <bdi className="font-medium">{slide.title || say('Without a title')}</bdi>
            {slide.excerpt !== '' && (
              <>
                {': '}
                <bdi className="font-read">{slide.excerpt}</bdi>
              </>
            )}
          </Link>
        </li>
      ))}
    </ul>
  )
}

export function Entry({ entry }: { entry: ShelfEntry }) {
  const dispatch = useAppDispatch()
  const next = nextStep(entry)
  const remove = async () => {
    const deletion = (deleted: boolean) => [{ kind: 'lecture-deleted' as const, deleted }]
    await dispatch(
      editOrTell({
        lectureId: entry.id,
        label: say('deleting “{title}”', { title: entry.title }),
        forth: deletion(true),
        back: deletion(false),
      }),
    )
    toast(say('“{title}” was deleted.', { title: entry.title }), {
      action: { label: say('Undo'), onClick: () => void dispatch(undo()) },
    })
  }
  return (
    <li className="grid grid-cols-[auto_1fr_auto] items-center gap-6 border-b border-base-300 py-5 max-lg:grid-cols-1">
      <Link to={`/lectures/${entry.id}`} className="flex max-sm:overflow-hidden" tabIndex={-1} aria-hidden="true">
        {entry.thumbnails.map((name, i) => (
          <img
            key={i}
            src={thumbnailUrl(name)}
            alt=""
            width={144}
            height={81}
            className="h-[81px] w-36 border border-base-300 bg-white object-contain not-first:-ms-20 max-sm:h-[63px] max-sm:w-28"
            style={{ zIndex: entry.thumbnails.length - i, position: 'relative' }}
          />
        ))}
      </Link>
      <div className="grid gap-1">
        <Link to={`/lectures/${entry.id}`} className="font-read text-xl font-semibold hover:underline">
          <bdi>{entry.title}</bdi>
        </Link>
        <p className="text-sm text-base-content/75">
          {say('{slides, plural, one {# slide} other {# slides}}', { slides: entry.slides })} · {clock(entry.seconds, 0)} ·{' '}
          {entry.editions === 0
            ? say('not published')
            : say('{editions, plural, one {# edition} other {# editions}}', { editions: entry.editions })}
          {entry.owner !== null && entry.right !== 'own' && (
            <>
              {' · '}
              {say('of {owner}', { owner: entry.owner })}
            </>
          )}
        </p>
        <div className="max-w-sm">
          <Share name={say('Narrated')} done={entry.narrated} of={entry.slides} />
          <Share name={say('Captioned')} done={entry.captioned} of={entry.slides} />
        </div>
        <FoundSlides entry={entry} />
      </div>
      <div className="flex items-center gap-2">
        <Link to={next.to} className={buttonLook({ size: 'md' })}>
          {next.text}
        </Link>
        {mayDo(entry, 'own') && (
          <Button kind="ghost" size="md" square aria-label={say('Delete {title}', { title: entry.title })} onClick={remove}>
            <Trash2 size={17} aria-hidden />
          </Button>
        )}
      </div>
    </li>
  )
}
