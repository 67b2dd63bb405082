/** What every place of the author shares, and the watch page goes without: the store, messages, events, keys for undo, left-behind recordings, a warning before unsaved text is lost. */

import { lazy, Suspense, useEffect, useState } from 'react'
import { Provider } from 'react-redux'
import { Outlet } from 'react-router'
import { Toaster, toast } from 'sonner'
import { say } from '#core/words/say.ts'
import { Announcer } from '#web/components/announcer.tsx'
import { useKeptFocus } from '#web/components/keys/use-kept-focus.ts'
import { usePageKeys } from '#web/components/keys/use-page-keys.ts'
import { soon } from '#web/components/soon.ts'
import { signInApi } from '#web/data/endpoints/sign-in.ts'
import { useEvents } from '#web/data/events.ts'
import { redo, selectSaved, undo } from '#web/data/history.ts'
import { store, useAppDispatch } from '#web/data/store.ts'
import { resumeUploads } from '#web/recorder/upload.ts'
import { isSchool } from '#web/sign-in/is-school.ts'

const KeyList = soon(async () => (await import('#web/components/keys/key-list.tsx')).KeyList)

const Gate = lazy(async () => ({ default: (await import('#web/sign-in/gate.tsx')).Gate }))

/** Whether there is somebody: where one is alone, always. */
function useIsIn(): boolean {
  const { data: me } = signInApi.useMeQuery(undefined, { skip: !isSchool() })
  return !isSchool() || Boolean(me?.person)
}

function Frame() {
  useEvents(useIsIn())
  useKeptFocus()
  const dispatch = useAppDispatch()
  const [keysShown, setKeysShown] = useState(false)
  useEffect(() => {
    void resumeUploads(
      () => toast(say('A recording that was cut off has been recovered. It waits among the takes of its slide.')),
      (sentence) => toast.error(sentence),
    )
  }, [])
  useEffect(() => {
    const onLeave = (event: BeforeUnloadEvent) => {
      if (selectSaved(store.getState()) !== 'saved') event.preventDefault()
    }
    window.addEventListener('beforeunload', onLeave)
    return () => window.removeEventListener('beforeunload', onLeave)
  }, [])
  // a field has its own undo
  usePageKeys({
    'mod+z': () => void dispatch(undo()),
    'shift+mod+z': () => void dispatch(redo()),
  })
  usePageKeys({ '?': () => setKeysShown(true) }, { everywhere: true })
  return (
    <>
      <Outlet />
      <Announcer />
      <Suspense>{keysShown && <KeyList onClose={() => setKeysShown(false)} />}</Suspense>
    </>
  )
}

export function Author() {
  return (
    <Provider store={store}>
      {isSchool() ? (
        <Suspense>
          <Gate>
            <Frame />
          </Gate>
        </Suspense>
      ) : (
        <Frame />
      )}
      {/* where the focus leaves the messages they send it back to where it came from: by Tab nobody would get past them (WCAG 2.2, 2.1.2) */}
      <div className="contents" onBlurCapture={(event) => event.stopPropagation()}>
        {/* each stays until it is put away (WCAG 2.2, 2.2.1), over the bar at the foot */}
        <Toaster
          position="bottom-right"
          duration={Number.POSITIVE_INFINITY}
          closeButton
          offset={{ bottom: '4rem' }}
          mobileOffset={{ bottom: '6rem' }}
          containerAriaLabel={say('Messages')}
          toastOptions={{ classNames: { toast: 'font-sans' }, closeButtonAriaLabel: say('Close') }}
        />
      </div>
    </Provider>
  )
}
