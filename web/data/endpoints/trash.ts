/** What the list of what was deleted asks of the server. */
import { api, ask, asks, client, param } from '#web/data/api.ts'

export const trashApi = api.injectEndpoints({
  endpoints: (build) => ({
    /** What was deleted of a lecture; null: lectures. */
    trash: build.query({
      ...asks(
        async (id: string | null) =>
          (await ask(id === null ? client.lectures.trash.$get() : client.lectures[':id'].trash.$get(param(id)))).trashed,
      ),
      providesTags: (_, __, id) => (id === null ? ['shelf'] : [{ type: 'lecture', id }]),
    }),
  }),
})
