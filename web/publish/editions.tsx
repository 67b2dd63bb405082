/** Editions with their files, and the links that let viewers in. */
import { Copy, Plus } from 'lucide-react'
import { useState } from 'react'
import { toast } from 'sonner'
import { toSeconds } from '#core/timing/clocks.ts'
import { api, type Edition, type Link, sentenceOf } from '#web/shared/api.ts'
import { clock, megabytes, moment } from '#web/shared/format.ts'

const addressOf = (link: Link) => `${location.origin}/watch/${link.token}`

function LinkRow({ lectureId, link }: { lectureId: string; link: Link }) {
  const [revoke] = api.useRevokeLinkMutation()
  const closed = link.revokedAt !== null
  const change = () =>
    revoke({ lectureId, token: link.token, revoked: !closed })
      .unwrap()
      .catch((error) => toast.error(sentenceOf(error)))
  const copy = () =>
    navigator.clipboard.writeText(addressOf(link)).then(
      () => toast('The link was copied.'),
      () => toast.error('The browser did not allow copying. Open the link and copy its address.'),
    )
  return (
    <li className="border-t border-base-300 py-2.5">
      <p className="flex items-center gap-3">
        {closed ? (
          <span className="line-through">{link.name}</span>
        ) : (
          <a href={addressOf(link)} target="_blank" rel="noreferrer" className="link font-medium">
            {link.name}
          </a>
        )}
        {!closed && (
          <button type="button" className="link ml-auto flex items-center gap-1" onClick={() => void copy()}>
            <Copy size={14} aria-hidden /> Copy
          </button>
        )}
      </p>
      <p className="flex gap-3 text-sm text-base-content/75">
        {closed ? 'closed' : 'open to all who have it; shows the newest edition'}
        <button type="button" className="link ml-auto shrink-0" onClick={() => void change()}>
          {closed ? 'Open again' : 'Close it'}
        </button>
      </p>
    </li>
  )
}

export function Editions({ lectureId, editions, links }: { lectureId: string; editions: Edition[]; links: Link[] }) {
  const [makeLink] = api.useMakeLinkMutation()
  const [name, setName] = useState('')
  const make = () => {
    makeLink({ id: lectureId, name: name.trim() || `Link ${links.length + 1}` })
      .unwrap()
      .then(
        () => setName(''),
        (error) => toast.error(sentenceOf(error)),
      )
  }
  return (
    <section aria-labelledby="editions" className="p-5">
      <h2 id="editions" className="mb-2 font-read text-xl font-semibold">
        Editions and links
      </h2>
      {editions.length === 0 && (
        <p className="border-t border-base-300 py-3 text-base-content/75">
          No edition yet. The first one gets a link that opens for everyone who has it.
        </p>
      )}
      {editions.length > 0 && (
        <>
          <ul aria-label="Links" className="mb-4">
            {links.map((link) => (
              <LinkRow key={link.token} lectureId={lectureId} link={link} />
            ))}
          </ul>
          <form
            className="mb-6 flex gap-2"
            onSubmit={(event) => {
              event.preventDefault()
              make()
            }}
          >
            <input
              className="input input-sm grow border-edge"
              placeholder="For whom?"
              aria-label="Name of a new link"
              maxLength={100}
              value={name}
              onChange={(event) => setName(event.target.value)}
            />
            <button type="submit" className="btn btn-sm border-edge">
              <Plus size={15} aria-hidden /> New link
            </button>
          </form>
        </>
      )}
      <ol aria-label="Editions" reversed>
        {editions.map((edition) => (
          <li key={edition.id} className="border-t border-base-300 py-2.5">
            <p>
              <strong className="font-read text-lg">Edition {edition.number}</strong>{' '}
              <span className="text-sm text-base-content/75">
                {moment(edition.createdAt)} · {clock(toSeconds(edition.lengthSamples), 0)}
              </span>
            </p>
            <ul className="text-sm">
              {edition.files.map((file) => (
                <li key={file.name} className="flex justify-between py-0.5">
                  <a className="link" href={`/api/editions/${edition.id}/files/${file.name}`}>
                    {file.name}
                  </a>
                  <span className="text-base-content/75">
                    {file.bytes < 100_000 ? `${Math.ceil(file.bytes / 1000)} kB` : megabytes(file.bytes)}
                  </span>
                </li>
              ))}
            </ul>
          </li>
        ))}
      </ol>
    </section>
  )
}
