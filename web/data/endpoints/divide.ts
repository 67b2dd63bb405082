/** What the page that divides asks of the server. */
import { api, ask, asks, client, param } from '#web/data/api.ts'

export const divideApi = api.injectEndpoints({
  endpoints: (build) => ({
    recordings: build.query({
      ...asks(async (id: string) => (await ask(client.lectures[':id'].recordings.$get(param(id)))).recordings),
      providesTags: (_, __, id) => [{ type: 'recordings', id }],
    }),
    divide: build.mutation({
      ...asks(
        async ({ recordingId, ...division }: { recordingId: string; slideIds: string[]; boundaries: number[] }) =>
          (await ask(client.recordings[':id'].division.$post({ ...param(recordingId), json: division }))).job,
      ),
      invalidatesTags: ['jobs'],
    }),
  }),
})
