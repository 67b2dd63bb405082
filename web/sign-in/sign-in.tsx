/** Signing in: by address and password, a second proof where one was set up, a passkey, or the school's own sign-in. */

import { KeyRound, School } from 'lucide-react'
import { type ReactNode, useState } from 'react'
import { useForm } from 'react-hook-form'
import { say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { TextField } from '#web/components/fields/text-field.tsx'
import { sentenceOf } from '#web/data/api.ts'
import { type Me, signInApi } from '#web/data/endpoints/sign-in.ts'
import { useAppDispatch } from '#web/data/store.ts'
import { Paper } from './paper.tsx'

const Problem = ({ text }: { text: string | null }) =>
  text === null ? null : (
    <p role="alert" className="text-error">
      {text}
    </p>
  )

function SecondProof() {
  const [prove, { error }] = signInApi.useSecondProofMutation()
  const [isBackup, setIsBackup] = useState(false)
  const { register, handleSubmit, formState } = useForm({ defaultValues: { code: '' } })
  return (
    <form
      className="grid gap-4"
      onSubmit={(event) =>
        void handleSubmit(({ code }) =>
          prove({ code, isBackup })
            .unwrap()
            .catch(() => {}),
        )(event)
      }
    >
      <p>
        {isBackup
          ? say('Type one of the codes you kept for bad days. Each of them works once.')
          : say('Type the code that your authenticator shows now.')}
      </p>
      <TextField label={say('Code')} autoComplete="one-time-code" autoFocus {...register('code', { required: true })} />
      <Problem text={error ? sentenceOf(error) : null} />
      <p className="flex flex-wrap gap-2">
        <Button type="submit" kind="primary" size="md" disabled={formState.isSubmitting}>
          {say('Go on')}
        </Button>
        <Button kind="ghost" size="md" onClick={() => setIsBackup(!isBackup)}>
          {isBackup ? say('With the code of the moment') : say('I cannot get at my authenticator')}
        </Button>
      </p>
    </form>
  )
}

/** A letter with a link for a new password, where mail is set up. */
function Forgotten({ email }: { email: string }) {
  const [forgotten, { isLoading, isSuccess, error }] = signInApi.useForgottenMutation()
  if (isSuccess)
    return (
      <output className="text-sm">
        {say('If somebody here has this address, a letter with a link is on its way to it. The link works for a day.')}
      </output>
    )
  return (
    <div className="grid gap-1 text-sm">
      <p>
        <button type="button" className="link" disabled={isLoading} onClick={() => void forgotten(email)}>
          {say('Forgotten? Have a link for a new password sent to this address')}
        </button>
      </p>
      <Problem text={error ? sentenceOf(error) : null} />
    </div>
  )
}

function ByPassword({ hasMail, onSecond }: { hasMail: boolean; onSecond: () => void }) {
  const [signIn, { error }] = signInApi.useSignInMutation()
  const { register, handleSubmit, formState, watch } = useForm({ defaultValues: { email: '', password: '' } })
  const { errors } = formState
  return (
    <form
      className="grid gap-4"
      noValidate
      onSubmit={(event) =>
        void handleSubmit((given) =>
          signIn(given)
            .unwrap()
            .then(({ needsSecondProof }) => needsSecondProof && onSecond())
            .catch(() => {}),
        )(event)
      }
    >
      <TextField
        label={say('E-mail address')}
        type="email"
        autoComplete="username webauthn"
        error={errors.email?.message ?? null}
        {...register('email', { required: say('Type your address.') })}
      />
      <TextField
        label={say('Password')}
        type="password"
        autoComplete="current-password"
        error={errors.password?.message ?? null}
        {...register('password', { required: say('Type your password.') })}
      />
      <Problem text={error ? sentenceOf(error) : null} />
      <Button type="submit" kind="primary" size="md" disabled={formState.isSubmitting}>
        {say('Sign in')}
      </Button>
      {hasMail ? (
        // what was sent for one address says nothing of another
        <Forgotten key={watch('email')} email={watch('email').trim()} />
      ) : (
        <p className="text-sm text-base-content/75">
          {say('Forgotten? An administrator can give you a link for a new password.')}
        </p>
      )}
    </form>
  )
}

function OtherWays({ provider }: { provider: string | null }) {
  const dispatch = useAppDispatch()
  const [atSchool] = signInApi.useSignInAtSchoolMutation()
  const [problem, setProblem] = useState<string | null>(
    new URLSearchParams(location.search).get('sign-in') === 'failed'
      ? say('The school’s sign-in did not let you in. Try again, or sign in by password.')
      : null,
  )
  const byPasskey = async () => {
    const { signInByPasskey } = await import('./passkeys.ts')
    const failure = await signInByPasskey()
    if (failure === null) dispatch(signInApi.util.invalidateTags(['me']))
    else setProblem(failure)
  }
  return (
    <div className="grid gap-2 border-t border-base-300 pt-4">
      {provider !== null && (
        <Button
          size="md"
          onClick={() =>
            void atSchool()
              .unwrap()
              .then(
                ({ url }) => location.assign(url),
                (error) => setProblem(sentenceOf(error)),
              )
          }
        >
          <School size={17} aria-hidden /> {say('Sign in at {provider}', { provider })}
        </Button>
      )}
      <Button size="md" onClick={() => void byPasskey()}>
        <KeyRound size={17} aria-hidden /> {say('Sign in with a passkey')}
      </Button>
      <Problem text={problem} />
    </div>
  )
}

/** All ways in; also shown over a page whose session has ended. */
export function SignInWays({ provider, hasMail }: Pick<Me, 'provider' | 'hasMail'>): ReactNode {
  const [second, setSecond] = useState(false)
  if (second) return <SecondProof />
  return (
    <>
      <ByPassword hasMail={hasMail} onSecond={() => setSecond(true)} />
      <OtherWays provider={provider} />
    </>
  )
}

export const SignIn = (ways: Pick<Me, 'provider' | 'hasMail'>) => (
  <Paper title={say('Sign in')}>
    <SignInWays {...ways} />
  </Paper>
)
