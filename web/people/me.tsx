/** What somebody signs in with, and where they are signed in. */

import { KeyRound } from 'lucide-react'
import { useState } from 'react'
import { useForm } from 'react-hook-form'
import { toast } from 'sonner'
import { say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { TextField } from '#web/components/fields/text-field.tsx'
import { moment } from '#web/components/format.ts'
import { Loading } from '#web/components/loading.tsx'
import { sentenceOf } from '#web/data/api.ts'
import { type Proofs, proofsApi } from '#web/data/endpoints/proofs.ts'
import { signInApi } from '#web/data/endpoints/sign-in.ts'
import { orTell } from '#web/data/or-tell.ts'
import { ROLE_WORDS } from '#web/sharing/rights-words.ts'
import { TopBar } from '#web/shell/top-bar.tsx'
import { Codes } from './codes.tsx'
import { OwnRoom } from './own-room.tsx'

function PasswordForm() {
  const [change] = proofsApi.useChangePasswordMutation()
  const [problem, setProblem] = useState<string | null>(null)
  const { register, handleSubmit, reset } = useForm({ defaultValues: { current: '', next: '' } })
  return (
    <form
      className="grid max-w-sm gap-3"
      onSubmit={(event) =>
        void handleSubmit((given) =>
          change(given)
            .unwrap()
            .then(
              () => {
                reset()
                setProblem(null)
                toast(say('Your password is changed. Everywhere else you are signed out.'))
              },
              (error) => setProblem(sentenceOf(error)),
            ),
        )(event)
      }
    >
      <TextField label={say('Password now')} type="password" autoComplete="current-password" {...register('current')} />
      <TextField
        label={say('New password, ten characters or more')}
        type="password"
        autoComplete="new-password"
        error={problem}
        {...register('next')}
      />
      <p>
        <Button type="submit">{say('Change the password')}</Button>
      </p>
    </form>
  )
}

function Passkeys({ passkeys, onChange }: { passkeys: Proofs['passkeys']; onChange: () => void }) {
  const [remove] = proofsApi.useDeletePasskeyMutation()
  const add = async () => {
    const { addPasskey } = await import('#web/sign-in/passkeys.ts')
    const failure = await addPasskey(navigator.platform || say('This device'))
    if (failure === null) onChange()
    else toast.error(failure)
  }
  return (
    <>
      <ul className="grid gap-1" aria-label={say('Passkeys')}>
        {passkeys.map((key) => (
          <li key={key.id} className="flex items-center gap-3">
            <KeyRound size={16} aria-hidden /> <bdi>{key.name || say('A device')}</bdi>
            <span className="text-sm text-base-content/75">{say('since {day}', { day: moment(key.createdAt) })}</span>
            <Button
              kind="ghost"
              size="xs"
              aria-label={say('Remove the passkey {name}', { name: key.name })}
              onClick={() => void orTell(remove(key.id).unwrap())}
            >
              {say('Remove it')}
            </Button>
          </li>
        ))}
      </ul>
      <p className="mt-2">
        <Button onClick={() => void add()}>{say('Add a passkey of this device')}</Button>
      </p>
    </>
  )
}

function Sessions({ sessions }: { sessions: Proofs['sessions'] }) {
  const [end] = proofsApi.useEndSessionMutation()
  const [endOthers] = proofsApi.useEndOtherSessionsMutation()
  return (
    <>
      <ul aria-label={say('Where you are signed in')}>
        {sessions.map((session) => (
          <li key={session.id} className="flex items-center gap-3 border-t border-base-300 py-1.5">
            <span className="min-w-0 grow">
              <span className="block truncate" dir="ltr">
                {session.userAgent || say('A program')}
              </span>
              <span className="text-sm text-base-content/75">
                {session.isThis ? say('this browser') : say('last seen {time}', { time: moment(session.seenAt) })} ·{' '}
                {session.address}
              </span>
            </span>
            {!session.isThis && (
              <Button kind="ghost" size="xs" onClick={() => void orTell(end(session.id).unwrap())}>
                {say('Sign out there')}
              </Button>
            )}
          </li>
        ))}
      </ul>
      {sessions.length > 1 && (
        <p className="mt-2">
          <Button onClick={() => void orTell(endOthers().unwrap())}>{say('Sign out everywhere else')}</Button>
        </p>
      )}
    </>
  )
}

export function OwnSignIn() {
  const { data: me } = signInApi.useMeQuery()
  const { data: proofs, refetch } = proofsApi.useProofsQuery(undefined, { refetchOnMountOrArgChange: true })
  const sections = proofs && [
    ...(proofs.hasPassword
      ? [
          { id: 'password', title: say('Password'), content: <PasswordForm /> },
          { id: 'codes', title: say('A code after the password'), content: <Codes isOn={proofs.hasCodes} /> },
        ]
      : []),
    {
      id: 'passkeys',
      title: say('Passkeys'),
      content: <Passkeys passkeys={proofs.passkeys} onChange={() => void refetch()} />,
    },
    { id: 'sessions', title: say('Where you are signed in'), content: <Sessions sessions={proofs.sessions} /> },
    { id: 'room', title: say('What you use'), content: <OwnRoom /> },
  ]
  return (
    <>
      <TopBar place={say('Your sign-in')} hasHeading />
      <main className="mx-auto grid w-full max-w-2xl gap-8 p-6">
        <div>
          <h1 className="font-read text-2xl font-semibold">{say('Your sign-in')}</h1>
          {me?.person && (
            <p className="text-base-content/75">
              <bdi>{me.person.name}</bdi>, {me.person.email}, {say(ROLE_WORDS[me.person.role])}
            </p>
          )}
        </div>
        {!sections && <Loading what={say('your sign-in')} />}
        {sections?.map(({ id, title, content }) => (
          <section key={id} aria-labelledby={id}>
            <h2 id={id} className="mb-2 font-read text-xl font-semibold">
              {title}
            </h2>
            {content}
          </section>
        ))}
        <p className="text-sm text-base-content/75">
          <a className="link" href="/api/me/data">
            {say('All that is known of you here (JSON)')}
          </a>
        </p>
      </main>
    </>
  )
}
