import type { WordCut } from '#core/audio/tidy-up/place-cut.ts'
import type { MovedWords } from '#core/jobs/job.ts'
import { api, ask, asks, client, param } from '#web/data/api.ts'

export const lectureApi = api.injectEndpoints({
  endpoints: (build) => ({
    /** Where a take has its sentences; with the lecture, since a take is listened to after it was kept. */
    said: build.query({
      ...asks(
        async ({ takeId }: { takeId: string; lectureId: string }) =>
          (await ask(client.takes[':id'].sentences.$get(param(takeId)))).sentences,
      ),
      providesTags: (_, __, { lectureId }) => [{ type: 'lecture', id: lectureId }],
    }),
    /** What was said in a take, word by word; with the lecture, as above. */
    spoken: build.query({
      ...asks(({ takeId }: { takeId: string; lectureId: string }) => ask(client.takes[':id'].words.$get(param(takeId)))),
      providesTags: (_, __, { lectureId }) => [{ type: 'lecture', id: lectureId }],
    }),
    slips: build.query({
      ...asks(async (id: string) => (await ask(client.lectures[':id'].slips.$get(param(id)))).takes),
      providesTags: (_, __, id) => [{ type: 'lecture', id }],
    }),
    /** Where cuts lie that take words out. */
    placeCuts: build.mutation({
      ...asks(
        async ({ takeId, cuts }: { takeId: string; cuts: WordCut[] }) =>
          (await ask(client.takes[':id'].cuts.$post({ ...param(takeId), json: { cuts } }))).placed,
      ),
    }),
    moveWords: build.mutation({
      ...asks(async (json: MovedWords) => (await ask(client.takes.moved.$post({ json }))).job),
      invalidatesTags: ['jobs'],
    }),
    cancelJob: build.mutation({
      ...asks(async (id: string) => (await ask(client.jobs[':id'].cancel.$post(param(id)))).job),
      invalidatesTags: ['jobs'],
    }),
  }),
})
