/** Lets in who signed in. Where a session ends while somebody works, the page stays as it is, and one signs in over it. */

import { type ReactNode, useEffect, useRef } from 'react'
import { say } from '#core/words/say.ts'
import { Loading } from '#web/components/loading.tsx'
import { Dialog } from '#web/components/overlay/dialog.tsx'
import { SIGNED_OUT, sentenceOf } from '#web/data/api.ts'
import { signInApi } from '#web/data/endpoints/sign-in.ts'
import { useAppDispatch } from '#web/data/store.ts'
import { SetUp } from './joining.tsx'
import { SignIn, SignInWays } from './sign-in.tsx'

/** A watch page that sent somebody here to sign in first. */
function watchedFrom(): string | null {
  const to = new URLSearchParams(location.search).get('to') ?? ''
  return /^\/watch\/[\w-]+$/.test(to) ? to : null
}

export function Gate({ children }: { children: ReactNode }) {
  const dispatch = useAppDispatch()
  const { data: me, error } = signInApi.useMeQuery()
  const wasIn = useRef<string | null>(null)
  const personId = me?.person?.id ?? null
  useEffect(() => {
    // what stands on the page is somebody else's
    if (wasIn.current !== null && personId !== null && wasIn.current !== personId) location.assign('/')
    wasIn.current = personId ?? wasIn.current
  }, [personId])
  useEffect(() => {
    const ask = () => void dispatch(signInApi.util.invalidateTags(['me']))
    window.addEventListener(SIGNED_OUT, ask)
    return () => window.removeEventListener(SIGNED_OUT, ask)
  }, [dispatch])
  const from = me?.person && !me.needsSetUp ? watchedFrom() : null
  useEffect(() => {
    if (from !== null) location.replace(from)
  }, [from])
  if (!me || from !== null) return error ? <p role="alert">{sentenceOf(error)}</p> : <Loading what={say('who you are')} />
  if (me.needsSetUp) return <SetUp />
  if (!me.person && wasIn.current === null) return <SignIn provider={me.provider} hasMail={me.hasMail} />
  return (
    <>
      {children}
      {!me.person && (
        <Dialog title={say('Sign in again')} width="max-w-sm" layout="grid gap-4" onClose={() => {}}>
          <p>{say('Your session has ended. What you did is kept here, and saved as soon as you are back.')}</p>
          <SignInWays provider={me.provider} hasMail={me.hasMail} />
        </Dialog>
      )}
    </>
  )
}
