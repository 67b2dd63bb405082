/** Learning platforms that open lectures within their own pages: none until one is registered. */

import { zodResolver } from '@hookform/resolvers/zod'
import { Copy } from 'lucide-react'
import { useState } from 'react'
import { useForm } from 'react-hook-form'
import { toast } from 'sonner'
import { NewPlatform } from '#core/packages/lti.ts'
import { type Message, message, say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { copyText } from '#web/components/copy-text.ts'
import { TextField } from '#web/components/fields/text-field.tsx'
import { Dialog, DialogButtons } from '#web/components/overlay/dialog.tsx'
import { sentenceOf } from '#web/data/api.ts'
import { type Platform, settingsApi } from '#web/data/endpoints/settings.ts'
import { orTell } from '#web/data/or-tell.ts'

/** What a platform asks for when the app is set up there. */
const OWN: { path: string; name: Message }[] = [
  { path: '/lti/login', name: message('Initiate login URL') },
  { path: '/lti/launch', name: message('Redirect URI, and target link URI') },
  { path: '/lti/keys', name: message('Public keyset URL (JWKS)') },
]

function OwnAddresses() {
  return (
    <dl className="grid grid-cols-[auto_1fr_auto] items-center gap-x-4 gap-y-1 text-sm max-sm:grid-cols-[1fr_auto]">
      {OWN.map(({ path, name }) => {
        const address = `${location.origin}${path}`
        return (
          <div key={path} className="contents">
            <dt className="text-base-content/75 max-sm:col-span-full">{say(name)}</dt>
            <dd dir="ltr" className="truncate">
              {address}
            </dd>
            <dd>
              <Button
                kind="ghost"
                size="xs"
                square
                aria-label={say('Copy {what}', { what: say(name) })}
                onClick={() =>
                  void copyText(
                    address,
                    say('The address was copied.'),
                    say('The browser did not allow copying. Mark the address and copy it.'),
                  )
                }
              >
                <Copy size={14} aria-hidden />
              </Button>
            </dd>
          </div>
        )
      })}
    </dl>
  )
}

const FIELDS: { name: Exclude<keyof NewPlatform, 'deploymentIds'>; label: Message }[] = [
  { name: 'name', label: message('Name, as it is shown here') },
  { name: 'issuer', label: message('Platform ID (issuer)') },
  { name: 'clientId', label: message('Client ID') },
  { name: 'authorizationUrl', label: message('Authentication request URL') },
  { name: 'tokenUrl', label: message('Access token URL') },
  { name: 'keysUrl', label: message('Public keyset URL') },
]

interface Typed extends Omit<NewPlatform, 'deploymentIds'> {
  /** With commas between them. */
  deploymentIds: string
}

const asPlatform = ({ deploymentIds, ...rest }: Typed): NewPlatform => ({
  ...rest,
  deploymentIds: deploymentIds
    .split(',')
    .map((id) => id.trim())
    .filter((id) => id !== ''),
})

function NewPlatformDialog({ onClose }: { onClose: () => void }) {
  const [add, { error }] = settingsApi.useAddPlatformMutation()
  const resolve = zodResolver(NewPlatform)
  const { register, handleSubmit, formState } = useForm<Typed>({
    defaultValues: { name: '', issuer: '', clientId: '', deploymentIds: '', authorizationUrl: '', tokenUrl: '', keysUrl: '' },
    resolver: async (typed, context, options) => {
      const { errors } = await resolve(asPlatform(typed), context as never, options as never)
      return Object.keys(errors).length > 0 ? { values: {}, errors: errors as never } : { values: typed, errors: {} }
    },
  })
  const sentence = (name: keyof Typed) => {
    const said = formState.errors[name]
    return said ? say({ id: said.message ?? (said as unknown as { message: string }[])[0]?.message ?? '' }) : null
  }
  const keep = handleSubmit((typed) =>
    add(asPlatform(typed))
      .unwrap()
      .then(onClose)
      .catch(() => {}),
  )
  return (
    <Dialog
      title={say('Register a learning platform')}
      width="max-w-xl"
      layout="grid gap-3"
      onClose={onClose}
      onSubmit={() => void keep()}
    >
      <p className="text-sm text-base-content/75">
        {say(
          'Set the app up on the platform first, as an LTI 1.3 tool with the addresses of the settings. The platform then tells what belongs here.',
        )}
      </p>
      {FIELDS.slice(0, 3).map(({ name, label }) => (
        <TextField key={name} label={say(label)} autoComplete="off" error={sentence(name)} {...register(name)} />
      ))}
      <TextField
        label={say('Deployment ID; several with commas between them')}
        autoComplete="off"
        error={sentence('deploymentIds')}
        {...register('deploymentIds')}
      />
      {FIELDS.slice(3).map(({ name, label }) => (
        <TextField key={name} label={say(label)} dir="ltr" autoComplete="off" error={sentence(name)} {...register(name)} />
      ))}
      {error !== undefined && (
        <p role="alert" className="text-error">
          {sentenceOf(error)}
        </p>
      )}
      <DialogButtons keep={say('Register')} disabled={formState.isSubmitting} onLeave={onClose} />
    </Dialog>
  )
}

function PlatformRow({ platform }: { platform: Platform }) {
  const [setDeleted] = settingsApi.useSetPlatformDeletedMutation()
  const { id, name, issuer, clientId } = platform
  const change = (deleted: boolean) => orTell(setDeleted({ id, deleted }).unwrap())
  const letGo = async () => {
    if (!(await change(true))) return
    toast(say('{name} opens nothing here any more.', { name }), {
      action: { label: say('Undo'), onClick: () => void change(false) },
    })
  }
  return (
    <li className="flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-base-300 py-2">
      <span className="min-w-0 grow">
        <bdi className="font-semibold">{name}</bdi>
        <span dir="ltr" className="block truncate text-sm text-base-content/75">
          {issuer} · {clientId}
        </span>
      </span>
      <Button size="xs" onClick={() => void letGo()} aria-label={say('Let {name} go', { name })}>
        {say('Let it go')}
      </Button>
    </li>
  )
}

export function Platforms() {
  const { data: platforms } = settingsApi.usePlatformsQuery()
  const [adding, setAdding] = useState(false)
  // only who looks after the server is told
  if (!platforms) return null
  return (
    <section aria-labelledby="platforms-heading" className="grid gap-3">
      <h2 id="platforms-heading" className="font-read text-xl font-semibold">
        {say('Learning platforms')}
      </h2>
      <p className="text-sm text-base-content/75">
        {say(
          'A platform that is registered opens lectures within its own pages without another sign-in, lets teachers choose them there, and is told who completed them (LTI 1.3). Set the app up there with these addresses:',
        )}
      </p>
      <OwnAddresses />
      {platforms.length > 0 && (
        <ul aria-label={say('Registered platforms')} className="border-t border-base-300">
          {platforms.map((platform) => (
            <PlatformRow key={platform.id} platform={platform} />
          ))}
        </ul>
      )}
      <p>
        <Button onClick={() => setAdding(true)}>{say('Register a learning platform')}</Button>
      </p>
      {adding && <NewPlatformDialog onClose={() => setAdding(false)} />}
    </section>
  )
}
