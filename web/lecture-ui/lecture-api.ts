/** What parts that show a lecture ask of the server. */
import type { SaidSentence } from '#core/captions/compare/compare-takes.ts'
import { api, ask, asks, client, type Job, param } from '#web/data/api.ts'

export const lectureApi = api.injectEndpoints({
  endpoints: (build) => ({
    /** Where a take has its sentences; with the lecture, since a take is listened to after it was kept. */
    said: build.query<SaidSentence[], { takeId: string; lectureId: string }>({
      ...asks(
        async ({ takeId }: { takeId: string; lectureId: string }) =>
          (await ask(client.takes[':id'].sentences.$get(param(takeId)))).sentences,
      ),
      providesTags: (_, __, { lectureId }) => [{ type: 'lecture', id: lectureId }],
    }),
    cancelJob: build.mutation<Job, string>({
      ...asks(async (id: string) => (await ask(client.jobs[':id'].cancel.$post(param(id)))).job),
      invalidatesTags: ['jobs'],
    }),
  }),
})
