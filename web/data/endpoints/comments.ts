/** What people say of moments of a lecture. */
import { api, ask, asks, client } from '#web/data/api.ts'

export interface GivenComment {
  lectureId: string
  slideId: string
  takeId: string | null
  at: number | null
  text: string
  answerTo: string | null
}

export const commentsApi = api.injectEndpoints({
  endpoints: (build) => ({
    comments: build.query({
      ...asks(async (id: string) => (await ask(client.lectures[':id'].comments.$get({ param: { id } }))).comments),
      providesTags: (_, __, id) => [{ type: 'comments', id }],
    }),
    addComment: build.mutation({
      ...asks(({ lectureId: id, ...json }: GivenComment) => ask(client.lectures[':id'].comments.$post({ param: { id }, json }))),
      invalidatesTags: (_, __, { lectureId: id }) => [{ type: 'comments', id }],
    }),
    settleComment: build.mutation({
      ...asks(({ id, settled }: { id: string; settled: boolean }) =>
        ask(client.comments[':id'].settled.$put({ param: { id }, json: { settled } })),
      ),
      invalidatesTags: ['comments'],
    }),
    deleteComment: build.mutation({
      ...asks(({ id, deleted }: { id: string; deleted: boolean }) =>
        ask(client.comments[':id'].deleted.$put({ param: { id }, json: { deleted } })),
      ),
      invalidatesTags: ['comments'],
    }),
  }),
})
