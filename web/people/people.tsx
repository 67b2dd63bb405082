/** Everybody on this server, as an administrator looks after them. */

import { UserPlus } from 'lucide-react'
import { useState } from 'react'
import { toast } from 'sonner'
import { PERSON_ROLES, type PersonRole } from '#core/people/rights.ts'
import { say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { TextField } from '#web/components/fields/text-field.tsx'
import { moment } from '#web/components/format.ts'
import { Loading } from '#web/components/loading.tsx'
import { Dialog, DialogButtons } from '#web/components/overlay/dialog.tsx'
import { sentenceOf } from '#web/data/api.ts'
import { peopleApi, type SomePerson } from '#web/data/endpoints/people.ts'
import { signInApi } from '#web/data/endpoints/sign-in.ts'
import { orTell } from '#web/data/or-tell.ts'
import { ROLE_WORDS } from '#web/sharing/rights-words.ts'
import { TopBar } from '#web/shell/top-bar.tsx'
import { Audit } from './audit.tsx'
import { OneLink, type OneLinkMade } from './one-link.tsx'

/** The one act that cannot be taken back. */
function EraseDialog({ person, onClose }: { person: SomePerson; onClose: () => void }) {
  const [erase] = peopleApi.useEraseMutation()
  const { id, name } = person
  return (
    <Dialog
      title={say('Erase {name}', { name })}
      width="max-w-md"
      layout="grid gap-4"
      onClose={onClose}
      onSubmit={async () => {
        await orTell(erase(id).unwrap())
        onClose()
      }}
    >
      <p>
        {say(
          'The sign-in of {name}, their rights, and their name on comments and in the record are taken away. This cannot be undone.',
          { name },
        )}
      </p>
      <DialogButtons keep={say('Erase')} onLeave={onClose} />
    </Dialog>
  )
}

function RoleSelect({ label, value, onChange }: { label: string; value: PersonRole; onChange: (role: PersonRole) => void }) {
  return (
    <select
      className="select select-sm w-44 border-edge"
      aria-label={label}
      value={value}
      onChange={({ target }) => onChange(target.value as PersonRole)}
    >
      {PERSON_ROLES.map((role) => (
        <option key={role} value={role}>
          {say(ROLE_WORDS[role])}
        </option>
      ))}
    </select>
  )
}

function InviteDialog({ onClose, onMade }: { onClose: () => void; onMade: (link: OneLinkMade) => void }) {
  const [invite] = peopleApi.useInviteMutation()
  const { data: spaces = [] } = peopleApi.useSpacesQuery()
  const [role, setRole] = useState<PersonRole>('teacher')
  const [email, setEmail] = useState('')
  const [spaceId, setSpaceId] = useState<string | null>(null)
  const [problem, setProblem] = useState<string | null>(null)
  return (
    <Dialog
      title={say('Invite somebody')}
      width="max-w-md"
      layout="grid gap-4"
      onClose={onClose}
      onSubmit={() =>
        void invite({ role, email: email.trim(), spaceId })
          .unwrap()
          .then(onMade, (error) => setProblem(sentenceOf(error)))
      }
    >
      <div className="flex items-center gap-3 text-sm">
        <span className="font-medium" aria-hidden>
          {say('They come as')}
        </span>
        <RoleSelect label={say('They come as')} value={role} onChange={setRole} />
      </div>
      <TextField
        label={say('Their e-mail address, or nothing: then they type it themselves')}
        type="email"
        value={email}
        error={problem}
        onChange={({ target }) => setEmail(target.value)}
      />
      {spaces.length > 0 && (
        <label className="flex items-center gap-3 text-sm">
          <span className="font-medium">{say('Into the space')}</span>
          <select
            className="select select-sm border-edge"
            value={spaceId ?? ''}
            onChange={({ target }) => setSpaceId(target.value || null)}
          >
            <option value="">{say('none')}</option>
            {spaces.map((space) => (
              <option key={space.id} value={space.id}>
                {space.name}
              </option>
            ))}
          </select>
        </label>
      )}
      <DialogButtons keep={say('Make the link')} onLeave={onClose} />
    </Dialog>
  )
}

function HandOverDialog({ person, others, onClose }: { person: SomePerson; others: SomePerson[]; onClose: () => void }) {
  const [handOver] = peopleApi.useHandAllOverMutation()
  const heirs = others.filter((one) => one.id !== person.id && one.leftAt === null && one.role !== 'reviewer')
  const [to, setTo] = useState(heirs[0]?.id ?? '')
  return (
    <Dialog
      title={say('Hand over the lectures of {name}', { name: person.name })}
      width="max-w-md"
      layout="grid gap-4"
      onClose={onClose}
      onSubmit={async () => {
        if (await orTell(handOver({ id: person.id, to }).unwrap())) onClose()
      }}
    >
      <p>
        {say('All of them get another owner. {name} may go on changing them as long as they are here.', { name: person.name })}
      </p>
      <label className="flex items-center gap-3 text-sm">
        <span className="font-medium">{say('New owner')}</span>
        <select className="select select-sm border-edge" value={to} onChange={({ target }) => setTo(target.value)}>
          {heirs.map((one) => (
            <option key={one.id} value={one.id}>
              {one.name}
            </option>
          ))}
        </select>
      </label>
      <DialogButtons keep={say('Hand over')} disabled={to === ''} onLeave={onClose} />
    </Dialog>
  )
}

interface RowProps {
  person: SomePerson
  isMe: boolean
  onReset: (link: OneLinkMade) => void
  onHandOver: () => void
  onErase: () => void
}

function Row({ person, isMe, onReset, onHandOver, onErase }: RowProps) {
  const [setRole] = peopleApi.useSetRoleMutation()
  const [setLeft] = peopleApi.useSetLeftMutation()
  const [reset] = peopleApi.useResetPasswordMutation()
  const { id, name, email, role, lectures, leftAt } = person
  const leave = async (left: boolean) => {
    if (!(await orTell(setLeft({ id, left }).unwrap())) || !left) return
    toast(say('{name} cannot sign in any more.', { name }), {
      action: { label: say('Undo'), onClick: () => void orTell(setLeft({ id, left: false }).unwrap()) },
    })
  }
  return (
    <tr className="border-t border-base-300 align-middle">
      <th scope="row" className="py-2 pe-4 text-start font-normal">
        <bdi className={`font-medium ${leftAt === null ? '' : 'text-base-content/75'}`}>{name}</bdi>
        {isMe && <span className="text-sm text-base-content/75"> {say('(you)')}</span>}
        <span className="block text-sm text-base-content/75">{email}</span>
      </th>
      <td className="py-2 pe-4">
        <RoleSelect
          label={say('Role of {name}', { name })}
          value={role}
          onChange={(wanted) => void orTell(setRole({ id, role: wanted }).unwrap())}
        />
      </td>
      <td className="py-2 pe-4 text-end">{lectures}</td>
      <td className="py-2 pe-4 text-sm text-base-content/75">
        {leftAt === null ? say('since {day}', { day: moment(person.createdAt) }) : say('left on {day}', { day: moment(leftAt) })}
      </td>
      <td className="py-2">
        <span className="flex flex-wrap justify-end gap-1">
          {leftAt === null ? (
            <>
              <Button
                kind="ghost"
                size="xs"
                aria-label={say('New password for {name}', { name })}
                onClick={() => void orTell(reset(id).unwrap().then(onReset))}
              >
                {say('New password')}
              </Button>
              {lectures > 0 && (
                <Button
                  kind="ghost"
                  size="xs"
                  aria-label={say('Hand over the lectures of {name}', { name })}
                  onClick={onHandOver}
                >
                  {say('Hand over')}
                </Button>
              )}
              {!isMe && (
                <Button kind="ghost" size="xs" aria-label={say('{name} leaves', { name })} onClick={() => void leave(true)}>
                  {say('Leaves')}
                </Button>
              )}
            </>
          ) : (
            <>
              {lectures > 0 && (
                <Button
                  kind="ghost"
                  size="xs"
                  aria-label={say('Hand over the lectures of {name}', { name })}
                  onClick={onHandOver}
                >
                  {say('Hand over')}
                </Button>
              )}
              <Button kind="ghost" size="xs" aria-label={say('{name} comes back', { name })} onClick={() => void leave(false)}>
                {say('Comes back')}
              </Button>
              <Button kind="ghost" size="xs" aria-label={say('Erase {name}', { name })} onClick={onErase}>
                {say('Erase')}
              </Button>
            </>
          )}
        </span>
      </td>
    </tr>
  )
}

export function People() {
  const { data: people, error } = peopleApi.usePeopleQuery()
  const { data: me } = signInApi.useMeQuery()
  const [shown, setShown] = useState<
    'invite' | { link: OneLinkMade; isNew: boolean } | { handing: SomePerson } | { erasing: SomePerson } | null
  >(null)
  const close = () => setShown(null)
  return (
    <>
      <TopBar
        place={say('People')}
        hasHeading
        action={
          <Button kind="primary" onClick={() => setShown('invite')}>
            <UserPlus size={16} aria-hidden /> {say('Invite somebody')}
          </Button>
        }
      />
      <main className="mx-auto grid w-full max-w-5xl gap-8 p-6">
        <h1 className="font-read text-2xl font-semibold">{say('People')}</h1>
        {error && <p role="alert">{sentenceOf(error)}</p>}
        {!people && !error && <Loading what={say('people')} />}
        {people && (
          // biome-ignore lint/a11y/noNoninteractiveTabindex: a wide table scrolls in its own room, by keyboard too
          <section className="overflow-x-auto" aria-label={say('Everybody here')} tabIndex={0}>
            <table className="w-full min-w-2xl">
              <thead className="text-sm text-base-content/75">
                <tr>
                  <th className="pb-1 text-start font-medium">{say('Name')}</th>
                  <th className="pb-1 text-start font-medium">{say('Role')}</th>
                  <th className="pb-1 pe-4 text-end font-medium">{say('Lectures')}</th>
                  <th className="pb-1 text-start font-medium">{say('Here')}</th>
                  <th>
                    <span className="sr-only">{say('Acts')}</span>
                  </th>
                </tr>
              </thead>
              <tbody>
                {people.map((person) => (
                  <Row
                    key={person.id}
                    person={person}
                    isMe={person.id === me?.person?.id}
                    onReset={(link) => setShown({ link, isNew: false })}
                    onHandOver={() => setShown({ handing: person })}
                    onErase={() => setShown({ erasing: person })}
                  />
                ))}
              </tbody>
            </table>
          </section>
        )}
        <Audit />
      </main>
      {shown === 'invite' && <InviteDialog onClose={close} onMade={(link) => setShown({ link, isNew: true })} />}
      {shown !== null && typeof shown === 'object' && 'link' in shown && (
        <OneLink
          title={shown.isNew ? say('An invitation') : say('A link for a new password')}
          says={
            shown.isNew
              ? say('Send this link to whom you invite. It lets one person in, within fourteen days, and is shown only now.')
              : say('Send this link to them. It works once, within a day, and is shown only now.')
          }
          link={shown.link}
          onClose={close}
        />
      )}
      {shown !== null && typeof shown === 'object' && 'handing' in shown && (
        <HandOverDialog person={shown.handing} others={people ?? []} onClose={close} />
      )}
      {shown !== null && typeof shown === 'object' && 'erasing' in shown && (
        <EraseDialog person={shown.erasing} onClose={close} />
      )}
    </>
  )
}
