/** Where everything lies, how much room it takes, and how much there is. */

import { say } from '#core/words/say.ts'
import { megabytes } from '#web/components/format.ts'
import { settingsApi } from '#web/data/endpoints/settings.ts'

/** Below this an hour of recording and its edition may not fit. */
const LITTLE_BYTES = 2e9

export function Storage() {
  const { data } = settingsApi.useStorageQuery(undefined, { refetchOnMountOrArgChange: true })
  if (!data) return null
  const others = Math.max(0, data.bytes - data.segmentsBytes - data.editionsBytes)
  return (
    <section aria-labelledby="storage">
      <h2 id="storage" className="mb-2 font-read text-xl font-semibold">
        {say('Storage')}
      </h2>
      <p>
        {say('Everything lies in')} <code className="rounded bg-base-200 px-1">{data.folder}</code>
      </p>
      <dl className="mt-2 grid w-fit grid-cols-[auto_auto] gap-x-6 gap-y-1">
        <dt>{say('Recordings, pictures, tidied sounds')}</dt>
        <dd className="text-end">{megabytes(others)}</dd>
        <dt>{say('Editions')}</dt>
        <dd className="text-end">{megabytes(data.editionsBytes)}</dd>
        <dt>{say('Encoded slides, made again when needed')}</dt>
        <dd className="text-end">{megabytes(data.segmentsBytes)}</dd>
        <dt>{say('Free on this disk')}</dt>
        <dd className="text-end">{megabytes(data.freeBytes)}</dd>
      </dl>
      {data.freeBytes < LITTLE_BYTES && (
        <p role="alert" className="mt-2 text-error">
          {say('There is little room left. Free some, or delete old editions, before you record for long.')}
        </p>
      )}
      <p className="mt-2 text-sm text-base-content/75">
        {say('To move everything, stop the app and copy that folder; ./lectern backup FOLDER copies it while the app runs.')}
      </p>
    </section>
  )
}
