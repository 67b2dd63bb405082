/** One finding as a word; opened, it says what to do and does it where one press can. */

import { CircleAlert, CircleDashed, Info } from 'lucide-react'
import { Suspense, useRef, useState } from 'react'
import { Link } from 'react-router'
import type { Check, CheckKind } from '#core/edition/checks/check.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { type Message, message, say } from '#core/words/say.ts'
import { Button, buttonLook } from '#web/components/button.tsx'
import { soon } from '#web/components/soon.ts'

const Popover = soon(async () => (await import('#web/components/overlay/popover.tsx')).Popover)

export const CHECK_WORDS: Record<CheckKind, Message> = {
  'no-sound': message('To record'),
  'not-tidied': message('Being tidied'),
  'over-pace': message('Over its pace'),
  'no-captions': message('No captions'),
  'check-captions': message('Check captions'),
  'heard-captions': message('Captions not checked'),
  'points-missed': message('Point not mentioned'),
  'not-timed': message('Captions not timed'),
  'captions-missing': message('Captions missing'),
  'undrawable-captions': message('Not drawn'),
  'said-twice': message('Said twice'),
  'off-script': message('Off the script'),
  'marked-wrong': message('Marked wrong'),
  'from-deck': message('Compare with the deck'),
  'builds-up': message('Builds up'),
  'film-missing': message('Film not shown'),
  'film-flashes': message('Film flashes'),
  'film-captions': message('Film without captions'),
  'film-description': message('Film not described'),
  'practice-voice': message('Practice voice'),
  'practice-picture': message('Practice picture'),
  clipped: message('Too loud'),
  'no-voice': message('No voice'),
  noisy: message('Room is heard'),
  'long-lead': message('Waits long'),
  'long-pause': message('Long pause'),
  'long-slide': message('Very long'),
  'coarse-picture': message('Few pixels'),
  'no-alt-text': message('Not described'),
  'draft-alt-text': message('Description is a draft'),
  'uneven-loudness': message('Uneven'),
  changed: message('Changed'),
}

/** Where a finding is fixed by hand. */
export function whereToMend(lecture: Pick<Lecture, 'id'>, check: Check): { to: string; words: string } {
  const base = `/lectures/${lecture.id}`
  if (check.kind === 'not-timed' || check.kind === 'captions-missing' || check.kind === 'undrawable-captions')
    return { to: `${base}/captions`, words: say('See captions') }
  if (check.slideId === null) return { to: `${base}/sound`, words: say('See all slides') }
  switch (check.kind) {
    case 'no-sound':
      return { to: `${base}/booth?slide=${check.slideId}`, words: say('Record') }
    case 'clipped':
    case 'no-voice':
    case 'practice-voice':
    case 'practice-picture':
      return { to: `${base}/booth?slide=${check.slideId}`, words: say('Record again') }
    case 'check-captions':
    case 'heard-captions':
      return { to: `${base}/captions`, words: say('See captions') }
    case 'no-captions':
      return { to: `${base}/slides/${check.slideId}`, words: say('Write it') }
    case 'no-alt-text':
    case 'draft-alt-text':
      return { to: `${base}/slides/${check.slideId}`, words: say('Describe it') }
    case 'changed':
      return { to: `${base}/publish`, words: say('Publish again') }
    default:
      return { to: `${base}/slides/${check.slideId}`, words: say('Go there') }
  }
}

const ICONS = { missing: CircleDashed, look: CircleAlert, note: Info }
const COLOURS = { missing: 'text-error', look: 'text-secondary', note: 'text-info' }

interface CheckChipProps {
  lecture: Lecture
  check: Check
  /** Null for who may not change the lecture. */
  onFix: ((check: Check) => void) | null
}

export function CheckChip({ lecture, check, onFix }: CheckChipProps) {
  const button = useRef<HTMLButtonElement>(null)
  const [open, setOpen] = useState(false)
  const Icon = ICONS[check.level]
  const place = whereToMend(lecture, check)
  const close = () => setOpen(false)
  return (
    <>
      <button
        ref={button}
        type="button"
        aria-haspopup="dialog"
        aria-expanded={open}
        className={`flex min-h-6 w-fit cursor-pointer items-center gap-1 rounded text-start hover:underline ${COLOURS[check.level]}`}
        title={check.finding}
        onClick={() => setOpen(!open)}
      >
        <Icon size={14} aria-hidden className="shrink-0" /> {say(CHECK_WORDS[check.kind])}
      </button>
      {open && (
        <Suspense>
          <Popover label={say(CHECK_WORDS[check.kind])} anchor={button} onClose={close}>
            <p className="font-medium">{check.finding}</p>
            {onFix && (
              <>
                <p className="mt-0.5 text-base-content/75">{check.advice}</p>
                <p className="mt-2 flex flex-wrap gap-2">
                  {check.fix && (
                    <Button
                      kind="primary"
                      size="xs"
                      onClick={() => {
                        close()
                        onFix(check)
                      }}
                    >
                      {check.fix.label}
                    </Button>
                  )}
                  <Link to={place.to} className={buttonLook({ size: 'xs' })}>
                    {place.words}
                  </Link>
                </p>
              </>
            )}
          </Popover>
        </Suspense>
      )}
    </>
  )
}
