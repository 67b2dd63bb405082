/** Other voices: links by which guests speak to some of the slides and a class reads or answers, who came by them, and what they sent. */

import { Copy, Lock, Settings2 } from 'lucide-react'
import { useState } from 'react'
import { Link } from 'react-router'
import { keptTake } from '#core/model/kept-take.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { isOpen } from '#core/voices/voice-link.ts'
import { say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { copyText } from '#web/components/copy-text.ts'
import { day } from '#web/components/format.ts'
import { Dialog } from '#web/components/overlay/dialog.tsx'
import { recordAddress, type VoiceLink, type VoiceLinkChange, voiceLinksApi } from '#web/data/endpoints/voices/voice-links.ts'
import { orTell } from '#web/data/or-tell.ts'
import { KeepGuest } from './keep-guest.tsx'
import { LinkSettings } from './link-settings.tsx'
import { NewLink } from './new-link.tsx'

/** How a link stands. */
function says(link: VoiceLink): string {
  if (link.revokedAt !== null) return say('closed')
  if (link.expiresAt === null) return link.hasPasscode ? say('opens with its passcode') : say('open to all who have it')
  return isOpen(link, Date.now())
    ? say('open until {time}', { time: day(link.expiresAt) })
    : say('ran out on {time}', { time: day(link.expiresAt) })
}

function numbersOf(lecture: Lecture, link: VoiceLink): string {
  const numbers = lecture.slides.flatMap((slide, i) => (link.slideIds.includes(slide.id) ? [i + 1] : []))
  return numbers.length === lecture.slides.length ? say('all slides') : say('slides {numbers}', { numbers: numbers.join(', ') })
}

function People({ lecture, link }: { lecture: Lecture; link: VoiceLink }) {
  if (link.voices.length === 0) return <p className="text-sm text-base-content/75">{say('Nobody has come by it yet.')}</p>
  return (
    <ul aria-label={say('Who came by {name}', { name: link.name })} className="text-sm">
      {link.voices.map(({ id, name, sent, unsent }) => (
        <li key={id} className="flex flex-wrap items-center gap-x-3 gap-y-1 py-0.5">
          <bdi className="font-medium">{name}</bdi>
          <span className="text-base-content/75">
            {say('{sent, plural, =0 {nothing sent yet} one {# recording sent} other {# recordings sent}}', { sent: sent.length })}
            {unsent > 0 && say(' · {unsent} recorded and not sent', { unsent })}
          </span>
          {link.kind === 'guest' && <KeepGuest lecture={lecture} name={name} takeIds={sent} />}
        </li>
      ))}
    </ul>
  )
}

function LinkRow({ lecture, link }: { lecture: Lecture; link: VoiceLink }) {
  const [changeLink] = voiceLinksApi.useChangeVoiceLinkMutation()
  const [open, setOpen] = useState(false)
  const change = (what: VoiceLinkChange) =>
    orTell(changeLink({ lectureId: lecture.id, token: link.token, change: what }).unwrap())
  const isClosed = link.revokedAt !== null
  const copy = () =>
    void copyText(
      recordAddress(link.token),
      say('The link was copied.'),
      say('The browser did not allow copying. Open the link and copy its address.'),
    )
  return (
    <li className="grid gap-1.5 border-t border-base-300 py-3">
      <p className="flex flex-wrap items-center gap-x-3">
        <a
          href={recordAddress(link.token)}
          target="_blank"
          rel="noreferrer"
          className={`font-medium ${isClosed ? 'line-through' : 'link'}`}
        >
          <bdi>{link.name}</bdi>
        </a>
        {link.hasPasscode && <Lock size={14} aria-label={say('With a passcode')} className="text-base-content/75" />}
        <span className="text-sm text-base-content/75">
          {link.kind === 'class' ? say('class') : say('guest')} · {numbersOf(lecture, link)} · {says(link)}
        </span>
        {!isClosed && (
          <button type="button" className="link ms-auto flex items-center gap-1 text-sm" onClick={copy}>
            <Copy size={14} aria-hidden /> {say('Copy')}
          </button>
        )}
      </p>
      <People lecture={lecture} link={link} />
      <p className="flex flex-wrap gap-4 text-sm">
        {link.kind === 'class' && (
          <Link className="link" to={`/lectures/${lecture.id}/answers/${link.token}`}>
            {say('Hear the answers')}
          </Link>
        )}
        <button type="button" className="link flex items-center gap-1" aria-expanded={open} onClick={() => setOpen(!open)}>
          <Settings2 size={13} aria-hidden /> {say('Settings')}
        </button>
        <button type="button" className="link ms-auto" onClick={() => void change({ revoked: !isClosed })}>
          {isClosed ? say('Open again') : say('Close it')}
        </button>
      </p>
      {open && <LinkSettings link={link} onChange={change} />}
    </li>
  )
}

export function VoicesDialog({ lecture, onClose }: { lecture: Lecture; onClose: () => void }) {
  const { data: links = [] } = voiceLinksApi.useVoiceLinksQuery(lecture.id, { refetchOnMountOrArgChange: true })
  const silent = lecture.slides.filter((slide) => !slide.hidden && !keptTake(slide)).map((slide) => slide.id)
  return (
    <Dialog title={say('Other voices')} width="max-w-3xl" layout="grid gap-4" onClose={onClose}>
      <p className="text-sm text-base-content/75">
        {say(
          'Who opens such a link sees the chosen slides and their scripts, records in the browser without an account, and sends what they are content with. Nothing of theirs takes the place of a take by itself.',
        )}
      </p>
      <NewLink lecture={lecture} silent={silent} isFirst={links.length === 0} />
      <ul aria-label={say('Links to record by')}>
        {links.map((link) => (
          <LinkRow key={link.token} lecture={lecture} link={link} />
        ))}
      </ul>
      <p>
        <Button kind="ghost" onClick={onClose}>
          {say('Close')}
        </Button>
      </p>
    </Dialog>
  )
}
