/** Links by which others record, and what a class sent by one. */
import type { InferRequestType, InferResponseType } from 'hono/client'
import { api, ask, asks, client, param } from '#web/data/api.ts'

export type VoiceLink = InferResponseType<(typeof client.lectures)[':id']['voiceLinks']['$get'], 200>['links'][number]
export type NewVoiceLink = InferRequestType<(typeof client.lectures)[':id']['voiceLinks']['$post']>['json']
export type VoiceLinkChange = InferRequestType<(typeof client.voiceLinks)[':token']['$patch']>['json']
export type Answer = InferResponseType<(typeof client.voiceLinks)[':token']['answers']['$get'], 200>['answers'][number]

export const voiceLinksApi = api.injectEndpoints({
  endpoints: (build) => ({
    voiceLinks: build.query({
      ...asks(async (id: string) => (await ask(client.lectures[':id'].voiceLinks.$get(param(id)))).links),
      providesTags: (_, __, id) => [{ type: 'voiceLinks', id }],
    }),
    makeVoiceLink: build.mutation({
      ...asks(async ({ id, link }: { id: string; link: NewVoiceLink }) =>
        ask(client.lectures[':id'].voiceLinks.$post({ ...param(id), json: link })),
      ),
      invalidatesTags: (_, __, { id }) => [{ type: 'voiceLinks', id }],
    }),
    changeVoiceLink: build.mutation({
      ...asks(({ token, change }: { lectureId: string; token: string; change: VoiceLinkChange }) =>
        ask(client.voiceLinks[':token'].$patch({ param: { token }, json: change })),
      ),
      invalidatesTags: (_, __, { lectureId }) => [{ type: 'voiceLinks', id: lectureId }],
    }),
    answers: build.query({
      ...asks(
        async ({ token }: { lectureId: string; token: string }) =>
          (await ask(client.voiceLinks[':token'].answers.$get({ param: { token } }))).answers as unknown as Answer[],
      ),
      providesTags: (_, __, { lectureId }) => [{ type: 'answers', id: lectureId }],
    }),
    setAnswerDeleted: build.mutation({
      ...asks(({ id, deleted }: { lectureId: string; id: string; deleted: boolean }) =>
        ask(client.answers[':id'].deleted.$put({ param: { id }, json: { deleted } })),
      ),
      invalidatesTags: (_, __, { lectureId }) => [{ type: 'answers', id: lectureId }],
    }),
  }),
})

export const answerSound = (id: string) => `/api/answers/${id}/sound.flac`
/** As it was recorded: what a reading tells is in its seconds. */
export const answerRecording = (id: string) => `/api/answers/${id}/recorded.flac`
export const answerPeaks = (id: string) => `/api/answers/${id}/peaks`
export const answersFolder = (token: string, format: string) => `/api/voiceLinks/${token}/folder?format=${format}`
/** As it is given to others. */
export const recordAddress = (token: string) => `${location.origin}/record/${token}`
