/** One finding as a word; opened, it says what to do and does it where one press can. */

import { CircleAlert, CircleDashed, Info } from 'lucide-react'
import { Link } from 'react-router'
import type { Check, CheckKind } from '#core/edition/checks/check.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { type Message, message, say } from '#core/words/say.ts'
import { useClosingDetails } from './use-closing-details.ts'

export const CHECK_WORDS: Record<CheckKind, Message> = {
  'no-sound': message('To record'),
  'not-tidied': message('Being tidied'),
  'over-pace': message('Over its pace'),
  'no-captions': message('No captions'),
  'check-captions': message('Check captions'),
  'not-timed': message('Captions not timed'),
  'captions-missing': message('Captions missing'),
  'undrawable-captions': message('Not drawn'),
  'said-twice': message('Said twice'),
  'off-script': message('Off the script'),
  'marked-wrong': message('Marked wrong'),
  'from-deck': message('Compare with the deck'),
  'builds-up': message('Builds up'),
  'practice-voice': message('Practice voice'),
  clipped: message('Too loud'),
  'no-voice': message('No voice'),
  noisy: message('Room is heard'),
  'long-lead': message('Waits long'),
  'long-pause': message('Long pause'),
  'long-slide': message('Very long'),
  'small-picture': message('Small picture'),
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
      return { to: `${base}/booth?slide=${check.slideId}`, words: say('Record again') }
    case 'check-captions':
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

export function CheckChip({ lecture, check, onFix }: { lecture: Lecture; check: Check; onFix: (check: Check) => void }) {
  const { details, open, onToggle, close } = useClosingDetails()
  const Icon = ICONS[check.level]
  const place = whereToMend(lecture, check)
  return (
    <details ref={details} onToggle={onToggle} className="dropdown dropdown-end block">
      <summary
        className={`flex min-h-6 w-fit cursor-pointer list-none items-center gap-1 rounded hover:underline ${COLOURS[check.level]}`}
        title={check.finding}
      >
        <Icon size={14} aria-hidden className="shrink-0" /> {say(CHECK_WORDS[check.kind])}
      </summary>
      {open && (
        <div className="dropdown-content z-40 mt-1 w-72 rounded-md border border-edge bg-base-100 p-3 text-sm shadow-lg">
          <p className="font-medium">{check.finding}</p>
          <p className="mt-0.5 text-base-content/75">{check.advice}</p>
          <p className="mt-2 flex flex-wrap gap-2">
            {check.fix && (
              <button
                type="button"
                className="btn btn-xs btn-primary"
                onClick={() => {
                  close()
                  onFix(check)
                }}
              >
                {check.fix.label}
              </button>
            )}
            <Link to={place.to} className="btn btn-xs border-edge">
              {place.words}
            </Link>
          </p>
        </div>
      )}
    </details>
  )
}
