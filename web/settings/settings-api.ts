/** What the settings ask of the server. */
import type { InferResponseType } from 'hono/client'
import { api, ask, asks, client } from '#web/data/api.ts'

export const settingsApi = api.injectEndpoints({
  endpoints: (build) => ({
    storage: build.query<InferResponseType<typeof client.storage.$get, 200>, void>({
      ...asks(() => ask(client.storage.$get())),
    }),
  }),
})
