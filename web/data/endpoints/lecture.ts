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
    cancelJob: build.mutation({
      ...asks(async (id: string) => (await ask(client.jobs[':id'].cancel.$post(param(id)))).job),
      invalidatesTags: ['jobs'],
    }),
  }),
})
