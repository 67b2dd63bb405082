/** What the shelf asks of the server. */
import { api, ask, asks, client, type Job, param, sendForm } from '#web/data/api.ts'

export const shelfApi = api.injectEndpoints({
  endpoints: (build) => ({
    shelf: build.query({
      ...asks(() => ask(client.lectures.$get())),
      providesTags: ['shelf'],
    }),
    addDeck: build.mutation({
      ...asks(async (files: File[]) => {
        const form = new FormData()
        for (const file of files) form.append('files', file)
        form.append('language', navigator.language)
        return (await sendForm<{ job: Job }>('lectures', form)).job
      }),
    }),
    /** Of a deck while it is read; null to find it. */
    chooseImportLanguage: build.mutation({
      ...asks(
        async ({ jobId, language }: { jobId: string; language: string | null }) =>
          (await ask(client.jobs[':id'].language.$put({ ...param(jobId), json: { language } }))).job,
      ),
      invalidatesTags: ['jobs'],
    }),
    /** The demo lecture, for trying things out. */
    addDemo: build.mutation({
      ...asks(async () => (await ask(client.lectures.demo.$post())).job),
    }),
  }),
})
