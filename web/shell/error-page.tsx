/** What is shown when a place breaks: what happened, where the sound is that was being recorded, and how to go on. */

import { useEffect, useState } from 'react'
import { useRouteError } from 'react-router'
import { say } from '#core/words/say.ts'
import { Button, buttonLook } from '#web/components/button.tsx'
import { chunkStore } from '#web/recorder/kept/chunk-store.ts'

const LOOK_AGAIN_MS = 500

/** A page that was loaded before an upgrade asks for parts that are not there any more; a server that has ended gives none. */
const isMissingPart = (error: unknown) =>
  /dynamically imported module|Importing a module script failed|error loading/i.test(String(error))

/** Recordings of this browser that the server does not have whole yet; null until it was looked. */
function useUnsent(): number | null {
  const [unsent, setUnsent] = useState<number | null>(null)
  useEffect(() => {
    const look = () =>
      void chunkStore.takes().then(
        (takes) => setUnsent(takes.length),
        () => setUnsent(null),
      )
    look()
    const timer = setInterval(look, LOOK_AGAIN_MS)
    return () => clearInterval(timer)
  }, [])
  return unsent
}

function Page({ children }: { children?: React.ReactNode }) {
  const error = useRouteError()
  useEffect(() => console.error(error), [error])
  return (
    <main className="mx-auto grid max-w-xl gap-4 p-10" role="alert">
      <h1 className="font-read text-2xl font-semibold">
        {isMissingPart(error) ? say('This page could not be loaded') : say('Something on this page went wrong')}
      </h1>
      <p>
        {isMissingPart(error)
          ? say('Tidy Lectern was brought up to date meanwhile, or it has ended. Load the page again.')
          : say(
              'What was saved before is untouched. Load the page again; if it happens once more, go to the shelf and come back another way.',
            )}
      </p>
      {children}
      <p className="flex gap-3">
        <Button kind="primary" size="md" onClick={() => location.reload()}>
          {say('Load the page again')}
        </Button>
        {children && (
          <a href="/" className={buttonLook({ size: 'md' })}>
            {say('Go to the shelf')}
          </a>
        )}
      </p>
      <details className="text-sm text-base-content/75">
        <summary>{say('For whoever looks after Tidy Lectern')}</summary>
        <pre className="mt-2 overflow-auto whitespace-pre-wrap">{String((error as Error | null)?.stack ?? error)}</pre>
      </details>
    </main>
  )
}

export function ErrorPage() {
  const unsent = useUnsent()
  return (
    <Page>
      <p>
        {unsent === null
          ? say('What was recorded is in this browser or on the server.')
          : unsent === 0
            ? say('Everything that was recorded is on the server.')
            : say(
                '{unsent, plural, one {# recording is} other {# recordings are}} kept in this browser and being sent. Leave this page open until it says that all is on the server.',
                { unsent },
              )}
      </p>
    </Page>
  )
}
