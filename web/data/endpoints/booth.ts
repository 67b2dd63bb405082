/** What the booth asks of the server. */
import { api, ask, asks, client } from '#web/data/api.ts'

export const boothApi = api.injectEndpoints({
  endpoints: (build) => ({
    /** A sentence said again, into the place of the first one. Samples of the take that has it. */
    sayAgain: build.mutation({
      ...asks(
        async (json: { takeId: string; againTakeId: string; text: string; start: number; end: number }) =>
          (await ask(client.takes.again.$post({ json }))).job,
      ),
      invalidatesTags: ['jobs'],
    }),
  }),
})
