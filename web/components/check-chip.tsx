/** One finding as a word; opened, it says what to do and does it where one press can. */
import { CircleAlert, CircleDashed, Info } from 'lucide-react'
import { Link } from 'react-router'
import type { Check, CheckKind } from '#core/edition/checks/check.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { useClosingDetails } from './use-closing-details.ts'

export const CHECK_WORDS: Record<CheckKind, string> = {
  'no-sound': 'To record',
  'not-tidied': 'Being tidied',
  'over-pace': 'Over its pace',
  'no-captions': 'No captions',
  'check-captions': 'Check captions',
  'not-timed': 'Captions not timed',
  'captions-missing': 'Captions missing',
  'said-twice': 'Said twice',
  'off-script': 'Off the script',
  'marked-wrong': 'Marked wrong',
  'from-deck': 'Compare with the deck',
  'builds-up': 'Builds up',
  'practice-voice': 'Practice voice',
  clipped: 'Too loud',
  'no-voice': 'No voice',
  noisy: 'Room is heard',
  'long-lead': 'Waits long',
  'long-pause': 'Long pause',
  'long-slide': 'Very long',
  'small-picture': 'Small picture',
  'no-alt-text': 'Not described',
  'uneven-loudness': 'Uneven',
  changed: 'Changed',
}

/** Where a finding is fixed by hand. */
export function whereToMend(lecture: Pick<Lecture, 'id'>, check: Check): { to: string; words: string } {
  const base = `/lectures/${lecture.id}`
  if (check.kind === 'not-timed' || check.kind === 'captions-missing') return { to: `${base}/captions`, words: 'See captions' }
  if (check.slideId === null) return { to: `${base}/sound`, words: 'See all slides' }
  switch (check.kind) {
    case 'no-sound':
      return { to: `${base}/booth?slide=${check.slideId}`, words: 'Record' }
    case 'clipped':
    case 'no-voice':
    case 'practice-voice':
      return { to: `${base}/booth?slide=${check.slideId}`, words: 'Record again' }
    case 'check-captions':
      return { to: `${base}/captions`, words: 'See captions' }
    case 'no-captions':
      return { to: `${base}/slides/${check.slideId}`, words: 'Write it' }
    case 'no-alt-text':
      return { to: `${base}/slides/${check.slideId}`, words: 'Describe it' }
    case 'changed':
      return { to: `${base}/publish`, words: 'Publish again' }
    default:
      return { to: `${base}/slides/${check.slideId}`, words: 'Go there' }
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
        className={`flex w-fit cursor-pointer list-none items-center gap-1 rounded hover:underline ${COLOURS[check.level]}`}
        title={check.finding}
      >
        <Icon size={14} aria-hidden className="shrink-0" /> {CHECK_WORDS[check.kind]}
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
