/** The links that let viewers in. */

import { Copy, Lock, Plus, Settings2 } from 'lucide-react'
import { useState } from 'react'
import { toast } from 'sonner'
import { type Message, message, say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { copyText } from '#web/components/copy-text.ts'
import { DayField } from '#web/components/fields/day-field.tsx'
import { NameField } from '#web/components/fields/name-field.tsx'
import { PasscodeField } from '#web/components/fields/passcode-field.tsx'
import { moment } from '#web/components/format.ts'
import { type Link, type LinkChange, sentenceOf } from '#web/data/api.ts'
import { publishApi } from '#web/data/endpoints/publish.ts'
import { editOrTell } from '#web/data/history.ts'
import { useAppDispatch } from '#web/data/store.ts'
import { isSchool } from '#web/sign-in/is-school.ts'
import { addressOf, Embedding } from './embedding.tsx'

const DOWNLOADS: Record<Link['downloads'][number], Message> = {
  video: message('the video'),
  sound: message('the sound alone'),
  captions: message('the captions'),
  transcript: message('the transcript'),
  folder: message('the page as a folder'),
}

/** One that came with an edition was named by nobody. */
const nameOf = (link: Link) => link.name || say('First link')

const isOver = (link: Link) => link.expiresAt !== null && link.expiresAt < Date.now()

function says(link: Link): string {
  if (link.revokedAt !== null) return say('closed')
  if (isOver(link)) return say('ran out on {time}', { time: moment(link.expiresAt!) })
  const who = link.needsSignIn
    ? say('opens for people of the school')
    : link.hasPasscode
      ? say('opens with its passcode')
      : say('open to all who have it')
  return link.expiresAt === null ? who : say('{who}, until {time}', { who, time: moment(link.expiresAt) })
}

interface LinkSettingsProps {
  link: Link
  /** Of the lecture. */
  title: string
  onChange: (change: LinkChange) => Promise<boolean>
}

function LinkSettings({ link, title, onChange }: LinkSettingsProps) {
  const [downloads, setDownloads] = useState(link.downloads)
  const allow = (kind: Link['downloads'][number], allowed: boolean) => {
    const wanted = allowed ? [...downloads, kind] : downloads.filter((other) => other !== kind)
    setDownloads(wanted)
    void onChange({ downloads: wanted }).then((kept) => !kept && setDownloads(downloads))
  }
  return (
    <div className="mt-2 grid gap-2 border-s-2 border-base-300 ps-3 text-sm">
      <NameField name={nameOf(link)} onChange={(name) => void onChange({ name })} />
      <DayField label={say('Last day')} value={link.expiresAt} onChange={(expiresAt) => void onChange({ expiresAt })} />
      <PasscodeField link={link} onChange={onChange} />
      {isSchool() && (
        <label className="flex items-center gap-2">
          <input
            type="checkbox"
            className="checkbox checkbox-xs border-edge"
            defaultChecked={link.needsSignIn}
            onChange={({ target }) => void onChange({ needsSignIn: target.checked })}
          />
          {say('Only for people of the school, who sign in')}
        </label>
      )}
      <Embedding link={link} title={title} onChange={onChange} />
      <fieldset className="grid gap-1">
        <legend className="mb-1">{say('Viewers may keep')}</legend>
        {(Object.keys(DOWNLOADS) as Link['downloads']).map((kind) => (
          <label key={kind} className="flex items-center gap-2">
            <input
              type="checkbox"
              className="checkbox checkbox-xs border-edge"
              checked={downloads.includes(kind)}
              onChange={({ target }) => allow(kind, target.checked)}
            />
            {say(DOWNLOADS[kind])}
          </label>
        ))}
      </fieldset>
    </div>
  )
}

function LinkRow({ lecture: { id: lectureId, title }, link }: { lecture: LinksProps['lecture']; link: Link }) {
  const [changeLink] = publishApi.useChangeLinkMutation()
  const dispatch = useAppDispatch()
  const [open, setOpen] = useState(false)
  const closed = link.revokedAt !== null
  const change = (what: LinkChange) =>
    changeLink({ lectureId, token: link.token, change: what })
      .unwrap()
      .then(
        () => true,
        (error) => {
          toast.error(sentenceOf(error))
          return false
        },
      )
  const close = (revoked: boolean) =>
    dispatch(
      editOrTell({
        lectureId,
        label: say(revoked ? 'closing the link “{name}”' : 'opening the link “{name}”', { name: nameOf(link) }),
        forth: [{ kind: 'link', token: link.token, change: { revoked } }],
        back: [{ kind: 'link', token: link.token, change: { revoked: !revoked } }],
      }),
    )
  const copy = () =>
    copyText(
      addressOf(link),
      say('The link was copied.'),
      say('The browser did not allow copying. Open the link and copy its address.'),
    )
  return (
    <li className="border-t border-base-300 py-2.5">
      <p className="flex items-center gap-3">
        {closed ? (
          <bdi className="line-through">{nameOf(link)}</bdi>
        ) : (
          <a href={addressOf(link)} target="_blank" rel="noreferrer" className="link font-medium">
            <bdi>{nameOf(link)}</bdi>
          </a>
        )}
        {link.hasPasscode && <Lock size={14} aria-label={say('With a passcode')} className="text-base-content/75" />}
        {!closed && (
          <button type="button" className="link ms-auto flex items-center gap-1" onClick={() => void copy()}>
            <Copy size={14} aria-hidden /> {say('Copy')}
          </button>
        )}
      </p>
      <p className="text-sm text-base-content/75">
        {says(link)} ·{' '}
        {link.views === 0
          ? say('not watched yet')
          : say('begun {views, plural, one {# time} other {# times}}', { views: link.views })}
      </p>
      <p className="flex gap-3 text-sm">
        <button type="button" className="link flex items-center gap-1" aria-expanded={open} onClick={() => setOpen(!open)}>
          <Settings2 size={13} aria-hidden /> {say('Settings')}
        </button>
        <button type="button" className="link ms-auto shrink-0" onClick={() => void close(!closed)}>
          {closed ? say('Open again') : say('Close it')}
        </button>
      </p>
      {open && <LinkSettings link={link} title={title} onChange={change} />}
    </li>
  )
}

interface LinksProps {
  lecture: { id: string; title: string }
  links: Link[]
}

export function Links({ lecture, links }: LinksProps) {
  const [makeLink] = publishApi.useMakeLinkMutation()
  const [name, setName] = useState('')
  const make = () => {
    makeLink({ id: lecture.id, name: name.trim() || say('Link {links}', { links: links.length + 1 }) })
      .unwrap()
      .then(
        () => setName(''),
        (error) => toast.error(sentenceOf(error)),
      )
  }
  return (
    <>
      <ul aria-label={say('Links')} className="mb-3">
        {links.map((link) => (
          <LinkRow key={link.token} lecture={lecture} link={link} />
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
          placeholder={say('For whom?')}
          aria-label={say('Name of a new link')}
          maxLength={100}
          value={name}
          onChange={(event) => setName(event.target.value)}
        />
        <Button type="submit">
          <Plus size={15} aria-hidden /> {say('New link')}
        </Button>
      </form>
    </>
  )
}
