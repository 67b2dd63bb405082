/** What a link opens: the lecture, a question for its passcode, or why it opens nothing. */

import { type ReactNode, useCallback, useEffect, useState } from 'react'
import { say } from '#core/words/say.ts'
import { Button, buttonLook } from '#web/components/button.tsx'
import { Mark } from '#web/components/mark.tsx'
import { type Opened, openToken, unlock } from '#web/watch/edition/edition.ts'
import { withLaunch } from './launch/with-launch.ts'
import { Player } from './player.tsx'

const Alone = ({ children }: { children: ReactNode }) => (
  <main className="mx-auto grid max-w-lg justify-items-center gap-4 p-16 text-center max-sm:p-6">
    <Mark />
    {children}
  </main>
)

function Passcode({ token, onOpen }: { token: string; onOpen: () => void }) {
  const [passcode, setPasscode] = useState('')
  const [problem, setProblem] = useState<string | null>(null)
  const [asking, setAsking] = useState(false)
  const give = async () => {
    setAsking(true)
    const said = await unlock(token, passcode)
    setAsking(false)
    setProblem(said)
    if (said === null) onOpen()
  }
  // within another page a browser does not keep what lets in
  if (window.self !== window.top)
    return (
      <Alone>
        <h1 className="font-read text-2xl">{say('This lecture opens with a passcode')}</h1>
        <a className={buttonLook({ kind: 'primary', size: 'md' })} href={location.href} target="_blank" rel="noopener">
          {say('Open it on its own page')}
        </a>
      </Alone>
    )
  return (
    <Alone>
      <h1 className="font-read text-2xl">{say('This lecture opens with a passcode')}</h1>
      <form
        className="flex flex-wrap justify-center gap-2"
        onSubmit={(event) => {
          event.preventDefault()
          void give()
        }}
      >
        <input
          type="password"
          className="input border-edge"
          aria-label={say('Passcode')}
          autoComplete="off"
          value={passcode}
          onChange={(event) => setPasscode(event.target.value)}
        />
        <Button type="submit" kind="primary" size="md" disabled={asking || passcode === ''}>
          {say('Open')}
        </Button>
      </form>
      {problem && (
        <p role="alert" className="text-error">
          {problem}
        </p>
      )}
    </Alone>
  )
}

function SignInFirst({ token }: { token: string }) {
  return (
    <Alone>
      <h1 className="font-read text-2xl">{say('Only people of this school may watch this lecture')}</h1>
      <a className={buttonLook({ kind: 'primary', size: 'md' })} href={`/?to=/watch/${token}`} target="_top">
        {say('Sign in')}
      </a>
    </Alone>
  )
}

export function Watch({ token }: { token: string }) {
  const [opened, setOpened] = useState<Opened | null>(null)
  const open = useCallback(() => {
    const launch = new URLSearchParams(location.search).get('launch')
    void openToken(token)
      .then((found) => withLaunch(token, found, launch))
      .then(setOpened)
  }, [token])
  useEffect(open, [open])
  if (!opened) return <p className="p-10">{say('Opening')}</p>
  if ('locked' in opened && opened.locked === 'sign-in') return <SignInFirst token={token} />
  if ('locked' in opened) return <Passcode token={token} onOpen={open} />
  if ('problem' in opened) {
    return (
      <Alone>
        <h1 className="font-read text-2xl">{opened.problem}</h1>
      </Alone>
    )
  }
  return <Player source={opened.source} />
}
