/** What can draft captions by listening: what is here, what is missing, and how to add more. */

import { useEffect, useRef } from 'react'
import { useLocation } from 'react-router'
import type { Probe } from '#core/captions/recognised/recogniser.ts'
import { languageName } from '#core/words/language-name.ts'
import { locale, say } from '#core/words/say.ts'
import { worthOf } from '#web/captions/without-script/no-captions.tsx'
import { megabytes } from '#web/components/format.ts'
import { captionsApi } from '#web/data/endpoints/captions.ts'

const HASH_LETTERS = 16

function RecogniserRow(one: Probe) {
  return (
    <li className="border-b border-base-300 py-2">
      <p className="flex flex-wrap items-baseline gap-x-3">
        <bdi className="font-semibold">{one.isPractice ? say('Practice recogniser') : one.name}</bdi>
        <span className={one.isReady ? 'text-success' : 'text-base-content/75'}>
          {one.isReady ? say('ready') : say('not ready')}
        </span>
        <span className="text-base-content/75">
          {one.languages === null
            ? say('does not say which languages')
            : new Intl.ListFormat(locale(), { type: 'conjunction' }).format(one.languages.map(languageName))}
        </span>
      </p>
      <p className="text-sm text-base-content/75">{one.missing ? say({ id: one.missing }) : worthOf(one)}</p>
      {one.files.length > 0 && (
        <dl className="mt-1 grid w-fit max-w-full grid-cols-[auto_auto_minmax(0,1fr)] gap-x-4 text-sm text-base-content/75">
          {one.files.map(({ name, bytes, sha256 }) => (
            <div key={name} className="contents">
              <dt dir="ltr">{name}</dt>
              <dd className="text-end">{megabytes(bytes)}</dd>
              <dd className="truncate" dir="ltr" title={`SHA-256 ${sha256}`}>
                SHA-256 {sha256.slice(0, HASH_LETTERS)}…
              </dd>
            </div>
          ))}
        </dl>
      )}
    </li>
  )
}

export function Recognisers() {
  const { data } = captionsApi.useRecognisersQuery(undefined, { refetchOnMountOrArgChange: true })
  const { hash } = useLocation()
  const section = useRef<HTMLElement>(null)
  const isAskedFor = hash === '#recognisers' && data !== undefined
  useEffect(() => {
    if (isAskedFor) section.current?.scrollIntoView()
  }, [isAskedFor])
  if (!data) return null
  return (
    <section ref={section} aria-labelledby="recognisers-heading">
      <h2 id="recognisers-heading" className="mb-2 font-read text-xl font-semibold">
        {say('Drafts of captions by listening')}
      </h2>
      <p className="text-sm text-base-content/75">
        {say(
          'For recordings without a script. Nothing listens until you ask it to, the sound stays on this computer, and every caption it writes waits to be checked.',
        )}
      </p>
      <ul className="mt-2 border-t border-base-300">
        {data.recognisers.map(({ id, ...one }) => (
          <RecogniserRow key={id} {...one} />
        ))}
      </ul>
      <p className="mt-2 text-sm text-base-content/75">
        {say(
          'To add a neural speech model in ONNX form, put its files into a folder of its own in the folder below. It is shown here then, with what it still needs.',
        )}
        <code className="mt-1 block w-fit max-w-full rounded bg-base-200 px-1 break-all" dir="ltr">
          {data.folder}
        </code>
      </p>
    </section>
  )
}
