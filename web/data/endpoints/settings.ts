/** What the settings ask of the server. */
import type { InferResponseType } from 'hono/client'
import type { NewPlatform } from '#core/packages/lti.ts'
import { api, ask, asks, client } from '#web/data/api.ts'

export type Platform = InferResponseType<typeof client.platforms.$get>['platforms'][number]

export const settingsApi = api.injectEndpoints({
  endpoints: (build) => ({
    storage: build.query({
      ...asks(() => ask(client.storage.$get())),
    }),
    platforms: build.query({
      ...asks(async () => (await ask(client.platforms.$get())).platforms),
      providesTags: ['platforms'],
    }),
    addPlatform: build.mutation({
      ...asks((json: NewPlatform) => ask(client.platforms.$post({ json }))),
      invalidatesTags: ['platforms'],
    }),
    setPlatformDeleted: build.mutation({
      ...asks(({ id, deleted }: { id: string; deleted: boolean }) =>
        ask(client.platforms[':id'].deleted.$put({ param: { id }, json: { deleted } })),
      ),
      invalidatesTags: ['platforms'],
    }),
  }),
})
