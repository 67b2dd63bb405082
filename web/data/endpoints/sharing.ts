/** Who may do what to a lecture. */
import type { InferResponseType } from 'hono/client'
import type { Right } from '#core/people/rights.ts'
import { api, ask, asks, client } from '#web/data/api.ts'

export type Members = InferResponseType<(typeof client.lectures)[':id']['members']['$get'], 200>

export const sharingApi = api.injectEndpoints({
  endpoints: (build) => ({
    members: build.query({
      ...asks((id: string) => ask(client.lectures[':id'].members.$get({ param: { id } }))),
      providesTags: (_, __, id) => [{ type: 'members', id }],
    }),
    setMember: build.mutation({
      ...asks(({ id, personId, right }: { id: string; personId: string; right: Exclude<Right, 'own'> | null }) =>
        ask(client.lectures[':id'].members[':personId'].$put({ param: { id, personId }, json: { right } })),
      ),
      invalidatesTags: (_, __, { id }) => [{ type: 'members', id }, 'shelf'],
    }),
    handOver: build.mutation({
      ...asks(({ id, personId }: { id: string; personId: string }) =>
        ask(client.lectures[':id'].owner.$put({ param: { id }, json: { personId } })),
      ),
      invalidatesTags: (_, __, { id }) => [{ type: 'members', id }, 'shelf'],
    }),
    setSpace: build.mutation({
      ...asks(({ id, spaceId }: { id: string; spaceId: string | null }) =>
        ask(client.lectures[':id'].space.$put({ param: { id }, json: { spaceId } })),
      ),
      invalidatesTags: (_, __, { id }) => [{ type: 'members', id }, 'shelf'],
    }),
  }),
})
