/** What somebody signs in with, and where they are signed in. */
import type { InferResponseType } from 'hono/client'
import { api, ask, asks, client } from '#web/data/api.ts'

export type Proofs = InferResponseType<typeof client.me.proofs.$get>

export const proofsApi = api.injectEndpoints({
  endpoints: (build) => ({
    proofs: build.query({ ...asks(() => ask(client.me.proofs.$get())), providesTags: ['proofs'] }),
    changePassword: build.mutation({
      ...asks((json: { current: string; next: string }) => ask(client.me.password.$post({ json }))),
      invalidatesTags: ['proofs'],
    }),
    beginCodes: build.mutation({ ...asks((password: string) => ask(client.me.codes.$post({ json: { password } }))) }),
    confirmCodes: build.mutation({
      ...asks((code: string) => ask(client.me.codes.confirmed.$post({ json: { code } }))),
      invalidatesTags: ['proofs'],
    }),
    endCodes: build.mutation({
      ...asks((password: string) => ask(client.me.codes.off.$post({ json: { password } }))),
      invalidatesTags: ['proofs'],
    }),
    deletePasskey: build.mutation({
      ...asks((id: string) => ask(client.me.passkeys[':id'].deleted.$put({ param: { id } }))),
      invalidatesTags: ['proofs'],
    }),
    endSession: build.mutation({
      ...asks((id: string) => ask(client.me.sessions[':id'].ended.$put({ param: { id } }))),
      invalidatesTags: ['proofs'],
    }),
    endOtherSessions: build.mutation({
      ...asks(() => ask(client.me.sessions.ended.$post())),
      invalidatesTags: ['proofs'],
    }),
  }),
})
