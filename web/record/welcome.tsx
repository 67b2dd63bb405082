/** Before somebody records by a link: a passcode where one is wanted, a name, and who will hear it. */

import { useForm } from 'react-hook-form'
import { say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { TextField } from '#web/components/fields/text-field.tsx'
import { day } from '#web/components/format.ts'
import { sentenceOf } from '#web/data/api.ts'
import { type OwnBooth, recordApi } from '#web/data/endpoints/voices/record.ts'
import { Paper } from '#web/sign-in/paper.tsx'

export function PasscodeForm({ token }: { token: string }) {
  const [enter, { error, isLoading }] = recordApi.useEnterByPasscodeMutation()
  const { register, handleSubmit } = useForm({ defaultValues: { passcode: '' } })
  return (
    <Paper title={say('This link opens with a passcode')}>
      <form
        className="grid gap-4"
        noValidate
        onSubmit={(event) => void handleSubmit((given) => enter({ token, ...given }))(event)}
      >
        <TextField
          label={say('Passcode')}
          type="password"
          autoComplete="off"
          error={error === undefined ? null : sentenceOf(error)}
          {...register('passcode')}
        />
        <Button type="submit" kind="primary" size="md" disabled={isLoading}>
          {say('Open')}
        </Button>
      </form>
    </Paper>
  )
}

/** Who hears what is recorded, and for how long: said before anything is. */
export function Privacy({ booth }: { booth: Pick<OwnBooth, 'kind' | 'recordingsEndAt'> }) {
  return (
    <p className="text-base-content/75">
      {booth.kind === 'class'
        ? say('What you send is heard by the teacher of this lecture and by nobody else.')
        : say(
            'What you send is heard by the teacher of this lecture, who may make it part of what learners watch, with your name.',
          )}{' '}
      {say(
        'What you do not send is heard by nobody. You can withdraw every recording here, with this browser, whenever you want.',
      )}{' '}
      {booth.recordingsEndAt !== null &&
        say('On {time} everything recorded by this link is deleted.', { time: day(booth.recordingsEndAt) })}
    </p>
  )
}

interface NameFormProps {
  token: string
  booth: OwnBooth
  onJoined: (key: string) => void
}

export function NameForm({ token, booth, onJoined }: NameFormProps) {
  const [join, { error }] = recordApi.useJoinByLinkMutation()
  const { register, handleSubmit, formState } = useForm({ defaultValues: { name: '' } })
  const send = (given: { name: string }) =>
    join({ token, ...given })
      .unwrap()
      .then(({ key }) => onJoined(key))
      .catch(() => {})
  const { slides, title, kind } = booth
  return (
    <Paper title={title}>
      <p>
        {kind === 'class'
          ? say('Your teacher asks you to read or answer on {count, plural, one {# slide} other {# slides}} of this lecture.', {
              count: slides.length,
            })
          : say('You are asked to speak to {count, plural, one {# slide} other {# slides}} of this lecture.', {
              count: slides.length,
            })}{' '}
        {say('You need a microphone and a quiet place. You can record as often as you like and send what you are content with.')}
      </p>
      <Privacy booth={booth} />
      <form className="grid gap-4" noValidate onSubmit={(event) => void handleSubmit(send)(event)}>
        <TextField
          label={say('Your name')}
          autoComplete="name"
          maxLength={80}
          error={formState.errors.name?.message ?? (error === undefined ? null : sentenceOf(error))}
          {...register('name', {
            validate: (name) => name.trim() !== '' || say('Type your name, so that one knows whose voice it is.'),
          })}
        />
        <Button type="submit" kind="primary" size="md" disabled={formState.isSubmitting}>
          {say('To the booth')}
        </Button>
      </form>
    </Paper>
  )
}
