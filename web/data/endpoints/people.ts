/** People and spaces of a school's server. */
import type { InferResponseType } from 'hono/client'
import type { Quota } from '#core/people/quota.ts'
import type { PersonRole, SpaceRight } from '#core/people/rights.ts'
import { api, ask, asks, client } from '#web/data/api.ts'

export type SomePerson = InferResponseType<typeof client.people.$get>['people'][number]
export type Space = InferResponseType<typeof client.spaces.$get>['spaces'][number]
export type Upkeep = InferResponseType<typeof client.upkeep.$get>
export type AuditEntry = InferResponseType<typeof client.audit.$get, 200>['entries'][number]

export const peopleApi = api.injectEndpoints({
  endpoints: (build) => ({
    people: build.query({ ...asks(async () => (await ask(client.people.$get())).people), providesTags: ['people'] }),
    names: build.query({ ...asks(async () => (await ask(client.people.names.$get())).people), providesTags: ['people'] }),
    invite: build.mutation({
      ...asks((json: { role: PersonRole; email: string; spaceId: string | null }) => ask(client.invitations.$post({ json }))),
    }),
    resetPassword: build.mutation({ ...asks((id: string) => ask(client.people[':id'].reset.$post({ param: { id } }))) }),
    setRole: build.mutation({
      ...asks(({ id, role }: { id: string; role: PersonRole }) =>
        ask(client.people[':id'].$patch({ param: { id }, json: { role } })),
      ),
      invalidatesTags: ['people', 'me'],
    }),
    setLeft: build.mutation({
      ...asks(({ id, left }: { id: string; left: boolean }) =>
        ask(client.people[':id'].left.$put({ param: { id }, json: { left } })),
      ),
      invalidatesTags: ['people'],
    }),
    handAllOver: build.mutation({
      ...asks(({ id, to }: { id: string; to: string }) =>
        ask(client.people[':id'].lectures.$post({ param: { id }, json: { to } })),
      ),
      invalidatesTags: ['people', 'shelf'],
    }),
    erase: build.mutation({
      ...asks((id: string) => ask(client.people[':id'].erased.$post({ param: { id } }))),
      invalidatesTags: ['people', 'spaces'],
    }),
    upkeep: build.query({ ...asks(() => ask(client.upkeep.$get())) }),
    audit: build.query({
      ...asks(
        async (before: number | undefined) =>
          (await ask(client.audit.$get({ query: before === undefined ? {} : { before: String(before) } }))).entries,
      ),
    }),
    quotas: build.query({ ...asks(async () => (await ask(client.quotas.$get())).quotas), providesTags: ['quotas'] }),
    setQuota: build.mutation({
      ...asks(({ of: id, quota: json }: { of: string; quota: Quota }) => ask(client.quotas[':id'].$put({ param: { id }, json }))),
      invalidatesTags: ['quotas'],
    }),
    myRoom: build.query({ ...asks(() => ask(client.me.room.$get())), providesTags: ['quotas', 'shelf'] }),
    spaces: build.query({ ...asks(async () => (await ask(client.spaces.$get())).spaces), providesTags: ['spaces'] }),
    addSpace: build.mutation({
      ...asks((name: string) => ask(client.spaces.$post({ json: { name } }))),
      invalidatesTags: ['spaces'],
    }),
    changeSpace: build.mutation({
      ...asks(({ id, ...json }: { id: string; name?: string; deleted?: boolean }) =>
        ask(client.spaces[':id'].$patch({ param: { id }, json })),
      ),
      invalidatesTags: ['spaces', 'shelf'],
    }),
    setSpaceMember: build.mutation({
      ...asks(({ id, personId, right }: { id: string; personId: string; right: SpaceRight | null }) =>
        ask(client.spaces[':id'].members[':personId'].$put({ param: { id, personId }, json: { right } })),
      ),
      invalidatesTags: ['spaces', 'shelf'],
    }),
  }),
})
