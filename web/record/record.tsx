/** What a link to record by opens: who one is, then a booth with the slides one was asked for. */

import { useEffect, useState } from 'react'
import { Provider } from 'react-redux'
import { useParams } from 'react-router'
import { Toaster, toast } from 'sonner'
import { say } from '#core/words/say.ts'
import { Loading } from '#web/components/loading.tsx'
import { usePageTitle } from '#web/components/page-title.ts'
import { isProblem, sentenceOf } from '#web/data/api.ts'
import { recordApi } from '#web/data/endpoints/voices/record.ts'
import { store } from '#web/data/store.ts'
import { resumeUploads } from '#web/recorder/upload.ts'
import { Paper } from '#web/sign-in/paper.tsx'
import { GuestBooth } from './guest-booth.tsx'
import { keepVoice, knownVoice } from './known-voice.ts'
import { NameForm, PasscodeForm } from './welcome.tsx'

function Recording({ token, known }: { token: string; known: string }) {
  const [key, setKey] = useState(known)
  const { data: booth, error, isLoading, refetch } = recordApi.useOwnBoothQuery({ token, key })
  usePageTitle(booth?.title, say('Record'))
  useEffect(() => {
    // what a tab that was closed had recorded
    void resumeUploads(
      () => {
        void refetch()
        toast(say('A recording that was cut off has been recovered. Listen to it, then send it.'))
      },
      (sentence) => toast.error(sentence),
    )
  }, [refetch])
  const be = (somebody: string) => void keepVoice(token, somebody).then(() => setKey(somebody))
  if (isLoading) return <Loading what={say('the booth')} />
  if (!booth)
    return isProblem(error) && error.status === 401 ? (
      <PasscodeForm token={token} />
    ) : (
      <Paper title={say('Recording by a link')}>
        <p role="alert">{sentenceOf(error)}</p>
      </Paper>
    )
  if (!booth.voice) return <NameForm token={token} booth={booth} onJoined={be} />
  return <GuestBooth key={key} booth={booth} voice={{ token, key }} onSomebodyElse={() => be('')} />
}

/** Who this browser was by the link, if it was anybody. */
function Known({ token }: { token: string }) {
  const [known, setKnown] = useState<string | null>(null)
  useEffect(() => void knownVoice(token).then(setKnown), [token])
  return known === null ? <Loading what={say('the booth')} /> : <Recording token={token} known={known} />
}

export function RecordPage() {
  const { token = '' } = useParams()
  return (
    <Provider store={store}>
      <Known token={token} />
      <div className="contents" onBlurCapture={(event) => event.stopPropagation()}>
        <Toaster
          position="top-right"
          duration={Number.POSITIVE_INFINITY}
          closeButton
          containerAriaLabel={say('Messages')}
          toastOptions={{ classNames: { toast: 'font-sans' }, closeButtonAriaLabel: say('Close') }}
        />
      </div>
    </Provider>
  )
}
