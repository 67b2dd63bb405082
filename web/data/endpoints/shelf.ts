/** What the shelf asks of the server. */
import { api, ask, asks, client, type Job, param, type Shelf, sendForm } from '#web/data/api.ts'

/** What of the shelf is shown. */
export interface ShelfAsked {
  /** Words that are sought; '' for none. */
  words: string
  /** Of one space by its id, or `own`; '' for all. */
  of: string
}

export const shelfApi = api.injectEndpoints({
  endpoints: (build) => ({
    shelf: build.infiniteQuery<Shelf, ShelfAsked, number>({
      ...asks(({ queryArg: { words, of }, pageParam }: { queryArg: ShelfAsked; pageParam: number }) =>
        ask(client.lectures.$get({ query: { words, from: String(pageParam), ...(of && { of }) } })),
      ),
      infiniteQueryOptions: {
        initialPageParam: 0,
        getNextPageParam: ({ total }, pages) => {
          const shown = pages.reduce((sum, page) => sum + page.lectures.length + page.unreadable.length, 0)
          return shown < total ? shown : undefined
        },
      },
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
