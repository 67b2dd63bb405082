import { api, ask, asks, client } from '#web/data/api.ts'

export const settingsApi = api.injectEndpoints({
  endpoints: (build) => ({
    storage: build.query({
      ...asks(() => ask(client.storage.$get())),
    }),
  }),
})
