/** What the publish page asks of the server. */
import { api, ask, asks, client, type LinkChange, param, sendFile } from '#web/data/api.ts'

export const publishApi = api.injectEndpoints({
  endpoints: (build) => ({
    publish: build.mutation({
      ...asks(async (id: string) => (await ask(client.lectures[':id'].editions.$post(param(id)))).job),
      invalidatesTags: ['jobs'],
    }),
    makeLink: build.mutation({
      ...asks(({ id, name }: { id: string; name: string }) =>
        ask(client.lectures[':id'].links.$post({ ...param(id), json: { name } })),
      ),
      invalidatesTags: (_, __, { id }) => [{ type: 'editions', id }],
    }),
    changeLink: build.mutation({
      ...asks(({ token, change }: { lectureId: string; token: string; change: LinkChange }) =>
        ask(client.links[':token'].$patch({ param: { token }, json: change })),
      ),
      invalidatesTags: (_, __, { lectureId }) => [{ type: 'editions', id: lectureId }],
    }),
    /** What each kind of video would be, learnt from what is made already. */
    estimates: build.query({
      ...asks(async (id: string) => (await ask(client.lectures[':id'].estimates.$get(param(id)))).videos),
      providesTags: ['estimates'],
    }),
    giveCrest: build.mutation({
      ...asks(({ id, file }: { id: string; file: File }) => sendFile<{ picture: string }>(`lectures/${id}/crests`, file)),
    }),
  }),
})
