/** Who may do what to a lecture: people by name, the space it lies in, and its owner. */

import { useState } from 'react'
import type { Right } from '#core/people/rights.ts'
import { say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { Loading } from '#web/components/loading.tsx'
import { Dialog } from '#web/components/overlay/dialog.tsx'
import { peopleApi } from '#web/data/endpoints/people.ts'
import { type Members, sharingApi } from '#web/data/endpoints/sharing.ts'
import { orTell } from '#web/data/or-tell.ts'
import { RIGHT_WORDS } from './rights-words.ts'

type Shared = Exclude<Right, 'own'>
const SHARED: Shared[] = ['see', 'comment', 'edit']

function MemberRow({ lectureId, member, owns }: { lectureId: string; member: Members['members'][number]; owns: boolean }) {
  const [setMember] = sharingApi.useSetMemberMutation()
  const { personId, name, email, right } = member
  const give = (wanted: Shared | null) => void orTell(setMember({ id: lectureId, personId, right: wanted }).unwrap())
  return (
    <li className="flex flex-wrap items-center gap-3 border-t border-base-300 py-1.5">
      <span className="min-w-48 grow">
        <bdi className="font-medium">{name}</bdi>
        <span className="block text-sm text-base-content/75">{email}</span>
      </span>
      {right === 'own' || !owns ? (
        <span className="text-sm">{say(RIGHT_WORDS[right])}</span>
      ) : (
        <>
          <select
            className="select select-sm w-44 border-edge"
            aria-label={say('What {name} may do', { name })}
            value={right}
            onChange={({ target }) => give(target.value as Shared)}
          >
            {SHARED.map((one) => (
              <option key={one} value={one}>
                {say(RIGHT_WORDS[one])}
              </option>
            ))}
          </select>
          <Button kind="ghost" size="xs" aria-label={say('Share no more with {name}', { name })} onClick={() => give(null)}>
            {say('Take out')}
          </Button>
        </>
      )}
    </li>
  )
}

export function ShareDialog({ lectureId, onClose }: { lectureId: string; onClose: () => void }) {
  const { data } = sharingApi.useMembersQuery(lectureId, { refetchOnMountOrArgChange: true })
  const owns = data?.right === 'own'
  // who does not own it chooses nobody
  const { data: names = [] } = peopleApi.useNamesQuery(undefined, { skip: !owns })
  const { data: spaces = [] } = peopleApi.useSpacesQuery(undefined, { skip: !owns })
  const [setMember] = sharingApi.useSetMemberMutation()
  const [setSpace] = sharingApi.useSetSpaceMutation()
  const [handOver] = sharingApi.useHandOverMutation()
  const [heir, setHeir] = useState('')
  if (!data) return <Loading what={say('who it is shared with')} />
  const others = names.filter((person) => !data.members.some((one) => one.personId === person.id))
  const heirs = names.filter(
    (one) => one.role !== 'reviewer' && !data.members.some((m) => m.personId === one.id && m.right === 'own'),
  )
  return (
    <Dialog title={say('Share')} width="max-w-xl" layout="grid gap-5" onClose={onClose}>
      <ul aria-label={say('Who it is shared with')}>
        {data.members.map((member) => (
          <MemberRow key={member.personId} lectureId={lectureId} member={member} owns={owns} />
        ))}
      </ul>
      {owns ? (
        <>
          {others.length > 0 && (
            <select
              className="select w-full border-edge"
              aria-label={say('Share with somebody')}
              value=""
              onChange={({ target }) =>
                void orTell(setMember({ id: lectureId, personId: target.value, right: 'comment' }).unwrap())
              }
            >
              <option value="">{say('Share with somebody')}</option>
              {others.map((person) => (
                <option key={person.id} value={person.id}>
                  {`${person.name}, ${person.email}`}
                </option>
              ))}
            </select>
          )}
          <label className="flex flex-wrap items-center gap-3 text-sm">
            <span className="font-medium">{say('In the space')}</span>
            <select
              className="select select-sm border-edge"
              value={data.spaceId ?? ''}
              onChange={({ target }) => void orTell(setSpace({ id: lectureId, spaceId: target.value || null }).unwrap())}
            >
              <option value="">{say('none')}</option>
              {spaces.map((space) => (
                <option key={space.id} value={space.id}>
                  {space.name}
                </option>
              ))}
            </select>
          </label>
          {heirs.length > 0 && (
            <form
              className="flex flex-wrap items-center gap-3 border-t border-base-300 pt-4 text-sm"
              onSubmit={async (event) => {
                event.preventDefault()
                if (await orTell(handOver({ id: lectureId, personId: heir }).unwrap())) setHeir('')
              }}
            >
              <label className="flex items-center gap-3">
                <span className="font-medium">{say('New owner')}</span>
                <select className="select select-sm border-edge" value={heir} onChange={({ target }) => setHeir(target.value)}>
                  <option value="">{say('as it is')}</option>
                  {heirs.map((person) => (
                    <option key={person.id} value={person.id}>
                      {person.name}
                    </option>
                  ))}
                </select>
              </label>
              <Button type="submit" disabled={heir === ''}>
                {say('Hand over')}
              </Button>
              <span className="text-base-content/75">{say('You may go on changing it.')}</span>
            </form>
          )}
        </>
      ) : (
        <p className="text-sm text-base-content/75">{say('Only who owns this lecture says who may do what.')}</p>
      )}
      <p>
        <Button onClick={onClose}>{say('Done')}</Button>
      </p>
    </Dialog>
  )
}
