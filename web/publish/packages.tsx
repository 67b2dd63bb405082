/** An edition for learning platforms and readers of books: packages to be kept. */
import { useState } from 'react'
import { SHARE_RANGE, USUAL_SHARE } from '#core/packages/listening.ts'
import { type Message, message, say } from '#core/words/say.ts'
import { NumberField } from '#web/components/fields/number-field.tsx'
import type { Edition, Link } from '#web/data/api.ts'

/** Names of standards are the same in every language. */
const REPORTING: { kind: string; name: string; says: Message }[] = [
  { kind: 'scorm-1.2', name: 'SCORM 1.2', says: message('taken by nearly every platform') },
  { kind: 'scorm-2004', name: 'SCORM 2004, 4th edition', says: message('tells how much was heard as well') },
  { kind: 'cmi5', name: 'cmi5', says: message('for platforms with an xAPI store') },
  { kind: 'xapi', name: 'xAPI', says: message('the same, older') },
]

export function Packages({ edition, links }: { edition: Edition; links: readonly Link[] }) {
  const [percent, setPercent] = useState(USUAL_SHARE * 100)
  const base = `/api/editions/${edition.id}/packages`
  const [link] = links
  return (
    <details className="text-sm">
      <summary className="cursor-pointer py-1">{say('For a learning platform')}</summary>
      <div className="grid gap-2 ps-4 pb-2">
        <NumberField
          label={say('Completed when so much was heard')}
          unit="%"
          min={SHARE_RANGE.least * 100}
          max={SHARE_RANGE.most * 100}
          step={5}
          value={percent}
          onChange={setPercent}
        />
        <ul>
          {REPORTING.map(({ kind, name, says }) => (
            <li key={kind} className="py-0.5">
              <a className="link inline-block py-0.5" href={`${base}/${kind}?share=${percent / 100}`}>
                {name}
              </a>
              <span className="text-base-content/75"> · {say(says)}</span>
            </li>
          ))}
          <li className="py-0.5">
            <a className="link inline-block py-0.5" href={`${base}/cartridge`}>
              IMS Common Cartridge
            </a>
            <span className="text-base-content/75"> · {say('all of it; nothing is told')}</span>
          </li>
          {link && (
            <li className="py-0.5">
              <a
                className="link inline-block py-0.5"
                href={`${base}/cartridge?link=${encodeURIComponent(`${location.origin}/watch/${link.token}`)}`}
              >
                {say('IMS Common Cartridge with a link')}
              </a>
              <span className="text-base-content/75">
                {' · '}
                {say('it opens “{name}”', { name: link.name })}
              </span>
            </li>
          )}
          <li className="py-0.5">
            <a className="link inline-block py-0.5" href={`${base}/epub`}>
              EPUB
            </a>
            <span className="text-base-content/75"> · {say('a narrated book, a page for each slide; without films')}</span>
          </li>
        </ul>
        <p className="text-base-content/75">
          {say(
            'A platform is told who has begun, where they stopped, for how long, and who has heard enough; what was jumped over does not count.',
          )}
        </p>
      </div>
    </details>
  )
}
