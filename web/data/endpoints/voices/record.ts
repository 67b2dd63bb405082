/** What the booth of a link asks: of the link alone, by the key of who came by it. */
import { hc, type InferResponseType } from 'hono/client'
import type { RecordApi } from '#server/http/routes/voices/record.ts'
import { api, ask, asks } from '#web/data/api.ts'
import type { LinkVoice } from '#web/recorder/take-requests.ts'

const client = hc<RecordApi>('/record')

export type OwnBooth = InferResponseType<(typeof client)[':token']['booth']['$get'], 200>
export type BoothSlide = OwnBooth['slides'][number]
export type OwnRecording = OwnBooth['recordings'][number]

const by = ({ key }: Pick<LinkVoice, 'key'>) => ({ headers: { 'x-voice': key } })

export const recordApi = api.injectEndpoints({
  endpoints: (build) => ({
    /** @param key '' before somebody has said who they are */
    ownBooth: build.query({
      ...asks(({ token, key }: LinkVoice) => ask(client[':token'].booth.$get({ param: { token } }, by({ key })))),
      providesTags: ['ownBooth'],
    }),
    enterByPasscode: build.mutation({
      ...asks(({ token, passcode }: { token: string; passcode: string }) =>
        ask(client[':token'].entry.$post({ param: { token }, json: { passcode } })),
      ),
      invalidatesTags: ['ownBooth'],
    }),
    joinByLink: build.mutation({
      ...asks(({ token, name }: { token: string; name: string }) =>
        ask(client[':token'].voices.$post({ param: { token }, json: { name } })),
      ),
    }),
    sendRecording: build.mutation({
      ...asks(({ token, key, id }: LinkVoice & { id: string }) =>
        ask(client[':token'].takes[':id'].sent.$put({ param: { token, id } }, by({ key }))),
      ),
      invalidatesTags: ['ownBooth'],
    }),
    withdrawRecording: build.mutation({
      ...asks(({ token, key, id, withdrawn }: LinkVoice & { id: string; withdrawn: boolean }) =>
        ask(client[':token'].takes[':id'].withdrawn.$put({ param: { token, id }, json: { withdrawn } }, by({ key }))),
      ),
      invalidatesTags: ['ownBooth'],
    }),
  }),
})

/** A recording as it was made. @throws Error where it cannot be had */
export async function fetchOwnSound({ token, key }: LinkVoice, id: string): Promise<Blob> {
  const answer = await fetch(`/record/${token}/takes/${id}/sound`, by({ key }))
  if (!answer.ok) throw new Error(answer.statusText)
  return answer.blob()
}

export const linkPicture = (token: string, name: string) => `/record/${token}/pictures/${name}.png`
export const linkThumbnail = (token: string, name: string) => `/record/${token}/pictures/${name}.webp`
