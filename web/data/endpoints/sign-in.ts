/** Signing in and out, and becoming one of the people. */
import type { InferResponseType } from 'hono/client'
import { api, ask, asks, client } from '#web/data/api.ts'

export type Me = InferResponseType<typeof client.me.$get>

interface Joining {
  name: string
  email: string
  password: string
}

export const signInApi = api.injectEndpoints({
  endpoints: (build) => ({
    me: build.query({ ...asks(() => ask(client.me.$get())), providesTags: ['me'] }),
    signIn: build.mutation({
      ...asks((json: { email: string; password: string }) => ask(client['sign-in'].$post({ json }))),
      invalidatesTags: (answer) => (answer?.needsSecondProof === false ? ['me'] : []),
    }),
    secondProof: build.mutation({
      ...asks((json: { code: string; isBackup: boolean }) => ask(client['sign-in']['second-proof'].$post({ json }))),
      invalidatesTags: ['me'],
    }),
    forgotten: build.mutation({ ...asks((email: string) => ask(client['sign-in'].forgotten.$post({ json: { email } }))) }),
    signInAtSchool: build.mutation({ ...asks(() => ask(client['sign-in'].school.$post())) }),
    signOut: build.mutation({ ...asks(() => ask(client['sign-out'].$post())) }),
    setUp: build.mutation({
      ...asks((json: Joining & { code: string }) => ask(client['set-up'].$post({ json }))),
      invalidatesTags: ['me'],
    }),
    invitation: build.query({
      ...asks((token: string) => ask(client.invitations[':token'].$get({ param: { token } }))),
    }),
    join: build.mutation({
      ...asks(({ token, ...json }: Joining & { token: string }) =>
        ask(client.invitations[':token'].$post({ param: { token }, json })),
      ),
    }),
  }),
})
