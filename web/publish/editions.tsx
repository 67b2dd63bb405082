/** Editions with what changed in each, and their files. */

import { Trash2 } from 'lucide-react'
import { lazy, Suspense, useMemo, useState } from 'react'
import { toast } from 'sonner'
import { changesBetween } from '#core/edition/manifest.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { toSeconds } from '#core/timing/clocks.ts'
import { message, say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { clock, lufs, megabytes, moment } from '#web/components/format.ts'
import type { Edition, Link } from '#web/data/api.ts'
import { editOrTell, undo } from '#web/data/history.ts'
import { useAppDispatch } from '#web/data/store.ts'
import { Links } from './links.tsx'
import { Packages } from './packages.tsx'
import { TakeAway } from './take-away.tsx'

// charts come with the first edition that somebody has watched
const Watching = lazy(async () => ({ default: (await import('./watching.tsx')).Watching }))

const KIND = { changed: message('changed'), new: message('new'), gone: message('taken out'), moved: message('moved') } as const

/** What an edition shows otherwise than another one, which is the one before it until another is chosen. */
function Changes({ edition, others }: { edition: Edition; others: Edition[] }) {
  const [chosen, setChosen] = useState<number | null>(null)
  const since = others.find((other) => other.number === chosen) ?? others.find((other) => other.number < edition.number)
  const changes = useMemo(() => (since ? changesBetween(since.slides, edition.slides) : []), [since, edition])
  if (!since) return null
  return (
    <details className="text-sm">
      <summary className="cursor-pointer">
        {changes.length === 0
          ? say('The same slides as edition {number}', { number: since.number })
          : say('{changes, plural, one {# slide} other {# slides}} changed since edition {number}', {
              changes: changes.length,
              number: since.number,
            })}
      </summary>
      <div className="ps-4">
        {changes.length > 0 && (
          <ul>
            {changes.map((slide, i) => (
              <li key={i}>
                <bdi>{slide.title || say('Without a title')}</bdi>: {say(KIND[slide.kind])}
              </li>
            ))}
          </ul>
        )}
        {others.length > 1 && (
          <label className="flex items-center gap-2 py-1">
            {say('compared with')}
            <select
              className="select select-xs w-32 border-edge bg-base-100"
              value={since.number}
              onChange={(event) => setChosen(Number(event.target.value))}
            >
              {others.map((other) => (
                <option key={other.id} value={other.number}>
                  {say('edition {number}', { number: other.number })}
                </option>
              ))}
            </select>
          </label>
        )}
      </div>
    </details>
  )
}

const sizeOf = (bytes: number) => (bytes < 100_000 ? say('{bytes} kB', { bytes: Math.ceil(bytes / 1000) }) : megabytes(bytes))

interface EditionRowProps {
  lectureId: string
  edition: Edition
  others: Edition[]
  links: Link[]
}

function EditionRow({ lectureId, edition, others, links }: EditionRowProps) {
  const dispatch = useAppDispatch()
  const remove = async () => {
    const deleted = (value: boolean) => [{ kind: 'edition-deleted' as const, id: edition.id, deleted: value }]
    await dispatch(
      editOrTell({
        lectureId,
        label: say('deleting edition {number}', { number: edition.number }),
        forth: deleted(true),
        back: deleted(false),
      }),
    )
    toast(say('Edition {number} was deleted. Links show the newest that is left.', { number: edition.number }), {
      action: { label: say('Undo'), onClick: () => void dispatch(undo()) },
    })
  }
  return (
    <li className="border-t border-base-300 py-2.5">
      <p className="flex items-baseline gap-2">
        <strong className="font-read text-lg">{say('Edition {number}', { number: edition.number })}</strong>
        <span className="text-sm text-base-content/75">{moment(edition.createdAt)}</span>
        <Button
          kind="ghost"
          size="xs"
          square
          className="ms-auto"
          aria-label={say('Delete edition {number}', { number: edition.number })}
          onClick={() => void remove()}
        >
          <Trash2 size={14} aria-hidden />
        </Button>
      </p>
      <p className="text-sm text-base-content/75">
        {clock(toSeconds(edition.lengthSamples), 0)}
        {edition.loudnessLufs !== null && ` · ${lufs(edition.loudnessLufs)}`}
      </p>
      <Changes edition={edition} others={others} />
      <Suspense>{edition.watching && <Watching edition={edition} />}</Suspense>
      <ul className="mt-1 text-sm">
        {edition.files
          .filter((file) => edition.videos.some((video) => video.file === file.name))
          .map((file) => (
            <FileLine key={file.name} edition={edition} file={file} />
          ))}
        <li className="py-0.5">
          <a className="link inline-block py-0.5" href={`/api/editions/${edition.id}/folder`}>
            {say('web folder (zip), opens without a server')}
          </a>
        </li>
      </ul>
      <Packages edition={edition} links={links} />
      <details className="text-sm">
        <summary className="cursor-pointer py-1">{say('More files')}</summary>
        <ul>
          {edition.files
            .filter((file) => !edition.videos.some((video) => video.file === file.name))
            .map((file) => (
              <FileLine key={file.name} edition={edition} file={file} />
            ))}
        </ul>
      </details>
    </li>
  )
}

const FileLine = ({ edition, file }: { edition: Edition; file: Edition['files'][number] }) => (
  <li className="flex justify-between py-0.5">
    <a className="link inline-block py-0.5" href={`/api/editions/${edition.id}/files/${file.name}`}>
      {file.name}
    </a>
    <span className="text-base-content/75">{sizeOf(file.bytes)}</span>
  </li>
)

/** One switch for all of it. */
function CountSwitch({ lecture }: { lecture: Lecture }) {
  const dispatch = useAppDispatch()
  const { countsWatching } = lecture
  const set = (next: boolean) =>
    void dispatch(
      editOrTell({
        lectureId: lecture.id,
        label: say('counting what is watched'),
        forth: [{ kind: 'lecture', change: { countsWatching: next } }],
        back: [{ kind: 'lecture', change: { countsWatching } }],
      }),
    )
  return (
    <label className="flex items-start gap-2 py-2 text-sm">
      <input
        type="checkbox"
        className="checkbox checkbox-xs mt-0.5 border-edge"
        checked={countsWatching}
        onChange={({ target }) => set(target.checked)}
      />
      <span>
        {say('Count which parts are watched')}
        <span className="block text-base-content/75">
          {say('only as totals; nobody is told apart, and browsers that ask not to be followed are not counted')}
        </span>
      </span>
    </label>
  )
}

interface EditionsProps {
  lecture: Lecture
  editions: Edition[]
  links: Link[]
  /** How many are kept; null for all. */
  kept: number | null
}

export function Editions({ lecture, editions, links, kept }: EditionsProps) {
  const lectureId = lecture.id
  return (
    <section aria-labelledby="editions" className="p-5">
      <h2 id="editions" className="mb-2 font-read text-xl font-semibold">
        {say('Editions and links')}
      </h2>
      {editions.length === 0 && (
        <p className="border-t border-base-300 py-3 text-base-content/75">
          {say('No edition yet. The first one gets a link that opens for everyone who has it.')}
        </p>
      )}
      {kept !== null && (
        <p className="pb-2 text-sm text-base-content/75">
          {say('The newest {kept} editions are kept; when another is made, the oldest goes to the trash.', { kept })}
        </p>
      )}
      {links.length > 0 && <Links lecture={lecture} links={links} />}
      {links.length > 0 && <CountSwitch lecture={lecture} />}
      <ol aria-label={say('Editions')} reversed>
        {editions.map((edition) => (
          <EditionRow
            key={edition.id}
            lectureId={lectureId}
            edition={edition}
            links={links}
            others={editions.filter((other) => other.id !== edition.id)}
          />
        ))}
      </ol>
      <TakeAway lecture={lecture} />
    </section>
  )
}
