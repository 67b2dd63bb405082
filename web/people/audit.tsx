/** Who did what to what, the newest first. */

import { useState } from 'react'
import { type Message, message, say } from '#core/words/say.ts'
import { moment } from '#web/components/format.ts'
import { type AuditEntry, peopleApi } from '#web/data/endpoints/people.ts'

const ACTS: Record<AuditEntry['act'], Message> = {
  'set-up': message('set the server up'),
  'signed-in': message('signed in'),
  'signed-out': message('signed out everywhere else'),
  invited: message('made a link for somebody'),
  joined: message('joined'),
  role: message('changed a role'),
  left: message('closed a sign-in'),
  returned: message('opened a sign-in again'),
  erased: message('erased somebody'),
  password: message('chose a new password'),
  'password-asked': message('had a link for a new password sent'),
  space: message('changed a space'),
  'space-member': message('changed who belongs to a space'),
  shared: message('changed who may do what to a lecture'),
  'handed-over': message('handed a lecture over'),
  quota: message('said how much may be used'),
}

export function Audit() {
  const [before, setBefore] = useState<number | undefined>(undefined)
  const { data: entries = [] } = peopleApi.useAuditQuery(before, { refetchOnMountOrArgChange: true })
  return (
    <section aria-labelledby="audit">
      <h2 id="audit" className="mb-2 font-read text-xl font-semibold">
        {say('What was done')}
      </h2>
      <p className="mb-2 text-sm text-base-content/75">
        {say('Who did what, and when; nothing of what was written or said.')}{' '}
        <a className="link" href="/api/audit/csv">
          {say('All of it as a table (CSV)')}
        </a>
      </p>
      <ol className="max-h-80 overflow-auto text-sm" aria-label={say('What was done')}>
        {entries.map((entry) => (
          <li key={entry.id} className="flex gap-3 border-t border-base-300 py-1">
            <span className="w-40 shrink-0 text-base-content/75">{moment(entry.at)}</span>
            <span>
              <bdi className="font-medium">
                {entry.name ??
                  (entry.act === 'password-asked' ? say('somebody who was not signed in') : say('somebody who was erased'))}
              </bdi>{' '}
              {say(ACTS[entry.act])}
            </span>
          </li>
        ))}
      </ol>
      {entries.length === 200 && (
        <button type="button" className="link mt-2 text-sm" onClick={() => setBefore(entries.at(-1)?.id)}>
          {say('Earlier')}
        </button>
      )}
    </section>
  )
}
