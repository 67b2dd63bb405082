/** Becoming one of the people: the first by the code of the console, others by an invitation; and choosing a new password by a link. */

import { useForm } from 'react-hook-form'
import { Provider } from 'react-redux'
import { useParams } from 'react-router'
import { say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { TextField } from '#web/components/fields/text-field.tsx'
import { Loading } from '#web/components/loading.tsx'
import { sentenceOf } from '#web/data/api.ts'
import { signInApi } from '#web/data/endpoints/sign-in.ts'
import { store } from '#web/data/store.ts'
import { Paper } from './paper.tsx'

const LEAST_PASSWORD = 10

interface Given {
  code: string
  name: string
  email: string
  password: string
}

interface JoiningFormProps {
  asks: { code?: boolean; name: boolean; email: boolean }
  act: string
  error: unknown
  onSend: (given: Given) => Promise<unknown>
}

function JoiningForm({ asks, act, error, onSend }: JoiningFormProps) {
  const { register, handleSubmit, formState } = useForm<Given>({ defaultValues: { code: '', name: '', email: '', password: '' } })
  const { errors } = formState
  const needed = { required: say('This is needed.') }
  const least = { value: LEAST_PASSWORD, message: say('A password needs ten characters at least.') }
  return (
    <form
      className="grid gap-4"
      noValidate
      onSubmit={(event) => void handleSubmit((given) => onSend(given).catch(() => {}))(event)}
    >
      {asks.code && (
        <TextField
          label={say('Code from where the server was started')}
          autoComplete="off"
          error={errors.code?.message ?? null}
          {...register('code', needed)}
        />
      )}
      {asks.name && (
        <TextField
          label={say('Your name, as others see it')}
          autoComplete="name"
          error={errors.name?.message ?? null}
          {...register('name', needed)}
        />
      )}
      {asks.email && (
        <TextField
          label={say('E-mail address')}
          type="email"
          autoComplete="username"
          error={errors.email?.message ?? null}
          {...register('email', needed)}
        />
      )}
      <TextField
        label={say('Password, ten characters or more')}
        type="password"
        autoComplete="new-password"
        error={errors.password?.message ?? null}
        {...register('password', { ...needed, minLength: least })}
      />
      {error !== undefined && (
        <p role="alert" className="text-error">
          {sentenceOf(error)}
        </p>
      )}
      <Button type="submit" kind="primary" size="md" disabled={formState.isSubmitting}>
        {act}
      </Button>
    </form>
  )
}

/** The first visitor of a new server. */
export function SetUp() {
  const [setUp, { error }] = signInApi.useSetUpMutation()
  return (
    <Paper title={say('Set up this server')}>
      <p>{say('Nobody is here yet. You become the administrator: you invite others and look after the server.')}</p>
      <JoiningForm
        asks={{ code: true, name: true, email: true }}
        act={say('Set up')}
        error={error}
        onSend={(given) => setUp(given).unwrap()}
      />
    </Paper>
  )
}

function Join() {
  const { token = '' } = useParams()
  const { data: invitation, error: refused, isLoading } = signInApi.useInvitationQuery(token)
  const [join, { error }] = signInApi.useJoinMutation()
  if (isLoading) return <Loading what={say('the invitation')} />
  if (!invitation)
    return (
      <Paper title={say('Invitation')}>
        <p role="alert">{sentenceOf(refused)}</p>
        <p>
          <a className="link" href="/">
            {say('To the sign-in')}
          </a>
        </p>
      </Paper>
    )
  const { kind, email } = invitation
  const isNew = kind === 'join'
  const send = (given: Given) =>
    join({ token, name: given.name, email: given.email, password: given.password })
      .unwrap()
      // everything is asked anew, as somebody
      .then(() => location.assign('/'))
  return (
    <Paper title={isNew ? say('Join') : say('A new password')}>
      {email !== '' && (
        <p>{isNew ? say('You join as {email}.', { email }) : say('Choose a new password for {email}.', { email })}</p>
      )}
      <JoiningForm
        asks={{ name: isNew, email: isNew && email === '' }}
        act={isNew ? say('Join') : say('Keep this password')}
        error={error}
        onSend={send}
      />
    </Paper>
  )
}

export const JoinPage = () => (
  <Provider store={store}>
    <Join />
  </Provider>
)
