/** What somebody has recorded by a link: heard again, sent and withdrawn. */
import { useEffect, useState } from 'react'
import { toast } from 'sonner'
import { say } from '#core/words/say.ts'
import type { SessionView } from '#web/booth/session/use-recording-session.ts'
import { sentenceOf } from '#web/data/api.ts'
import { fetchOwnSound, type OwnBooth, recordApi } from '#web/data/endpoints/voices/record.ts'
import { togglePlay } from '#web/playback/sound.ts'
import type { LinkVoice } from '#web/recorder/take-requests.ts'

/** While something is on its way it is asked so often how far it is. */
const ASK_MS = 1500

export type OwnRecordings = ReturnType<typeof useOwnRecordings>

/** Sounds that were fetched to be heard, by recording. */
function useSounds(voice: LinkVoice) {
  const [sounds, setSounds] = useState<Record<string, string>>({})
  const hear = async (id: string) => {
    try {
      const address = sounds[id] ?? URL.createObjectURL(await fetchOwnSound(voice, id))
      setSounds((known) => ({ ...known, [id]: address }))
      togglePlay(address)
    } catch {
      toast.error(say('This recording cannot be heard just now. Wait a moment, then try again.'))
    }
  }
  return { sounds, hear }
}

export function useOwnRecordings(booth: OwnBooth, voice: LinkVoice, session: SessionView, onSomebodyElse: () => void) {
  const isWaiting = booth.recordings.some((one) => !one.isSealed)
  const { refetch } = recordApi.useOwnBoothQuery(voice, { pollingInterval: isWaiting ? ASK_MS : 0 })
  const [send] = recordApi.useSendRecordingMutation()
  const [withdraw] = recordApi.useWithdrawRecordingMutation()
  const { sounds, hear } = useSounds(voice)
  const sealed = session.upload?.state === 'sealed' ? session.takeId : null
  useEffect(() => {
    if (sealed) void refetch()
  }, [sealed, refetch])
  const told = (done: Promise<unknown>) => void done.catch((error) => toast.error(sentenceOf(error)))
  return {
    sounds,
    hear: (id: string) => void hear(id),
    send: (id: string) => told(send({ ...voice, id }).unwrap()),
    withdraw: (id: string, withdrawn: boolean) => told(withdraw({ ...voice, id, withdrawn }).unwrap()),
    beSomebodyElse: onSomebodyElse,
  }
}
