/** How much somebody, a space or everybody may use. */

import { useForm } from 'react-hook-form'
import { NO_QUOTA, type Quota } from '#core/people/quota.ts'
import { say } from '#core/words/say.ts'
import { Button } from '#web/components/button.tsx'
import { TextField } from '#web/components/fields/text-field.tsx'
import { Dialog } from '#web/components/overlay/dialog.tsx'
import { peopleApi } from '#web/data/endpoints/people.ts'
import { orTell } from '#web/data/or-tell.ts'

const EVERYBODY = 'everybody'

interface QuotaDialogProps {
  /** Somebody's id, that of a space; null for everybody. */
  of: string | null
  title: string
  onClose: () => void
}

/** A field that is left empty bounds nothing. */
const asNumber = (typed: string) => (typed.trim() === '' ? null : Number(typed))
const asText = (value: number | null) => (value === null ? '' : String(value))

function Fields({ of, title, quota, onClose }: QuotaDialogProps & { quota: Quota }) {
  const [set] = peopleApi.useSetQuotaMutation()
  const { register, handleSubmit } = useForm({
    defaultValues: {
      hours: asText(quota.recordedHours),
      gigabytes: asText(quota.editionsGigabytes),
      kept: asText(quota.editionsKept),
    },
  })
  const keep = handleSubmit(async ({ hours, gigabytes, kept }) => {
    const wanted = { recordedHours: asNumber(hours), editionsGigabytes: asNumber(gigabytes), editionsKept: asNumber(kept) }
    if (await orTell(set({ of: of ?? EVERYBODY, quota: wanted }).unwrap())) onClose()
  })
  return (
    <Dialog title={title} width="max-w-md" layout="grid gap-4" onClose={onClose} onSubmit={() => void keep()}>
      <p className="text-sm text-base-content/75">
        {of === null
          ? say('What is left empty has no bound. What is recorded is always kept, even past it.')
          : say('What is left empty is as for everybody. What is recorded is always kept, even past it.')}
      </p>
      <TextField label={say('Hours of recordings')} type="number" min={0.01} step="any" {...register('hours')} />
      <TextField label={say('Gigabytes of editions')} type="number" min={0.01} step="any" {...register('gigabytes')} />
      <TextField
        label={say('Editions kept of each lecture; older ones go to the trash when another is made')}
        type="number"
        min={2}
        step={1}
        {...register('kept')}
      />
      <p className="flex gap-2">
        <Button type="submit" kind="primary">
          {say('Keep it so')}
        </Button>
        <Button kind="ghost" onClick={onClose}>
          {say('Leave it')}
        </Button>
      </p>
    </Dialog>
  )
}

export function QuotaDialog(props: QuotaDialogProps) {
  const { data } = peopleApi.useQuotasQuery(undefined, { refetchOnMountOrArgChange: true })
  return data ? <Fields {...props} quota={data[props.of ?? EVERYBODY] ?? NO_QUOTA} /> : null
}
