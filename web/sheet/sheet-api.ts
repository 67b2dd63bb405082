/** What the sheet asks of the server. */
import type { FoundReplacement } from '#core/deck/replace.ts'
import type { Card } from '#core/model/slide.ts'
import { api, ask, asks, client, type Job, param, sendFile, sendForm } from '#web/data/api.ts'

export const sheetApi = api.injectEndpoints({
  endpoints: (build) => ({
    /** A new version of a lecture's deck, to be compared. */
    addNewDeck: build.mutation<Job, { id: string; files: File[] }>({
      ...asks(async ({ id, files }: { id: string; files: File[] }) => {
        const form = new FormData()
        for (const file of files) form.append('files', file)
        return (await sendForm<{ job: Job }>(`lectures/${id}/decks`, form)).job
      }),
      invalidatesTags: ['jobs'],
    }),
    /** What differs in a new version of a deck. */
    replacement: build.query<FoundReplacement, string>({
      ...asks((id: string) => ask(client.lectures.replacements[':id'].$get(param(id)))),
    }),
    takeOver: build.mutation<
      { steps: { slideId: string; stepId: string }[]; slideIds: string[] },
      { id: string; changed: string[]; added: number[] }
    >({
      ...asks(({ id, ...json }: { id: string; changed: string[]; added: number[] }) =>
        ask(client.lectures.replacements[':id'].$post({ ...param(id), json })),
      ),
    }),
    /** A sound file as a take of a slide. */
    addSound: build.mutation<Job, { slideId: string; file: File }>({
      ...asks(
        async ({ slideId, file }: { slideId: string; file: File }) =>
          (await sendFile<{ job: Job }>(`slides/${slideId}/sounds`, file)).job,
      ),
      invalidatesTags: ['jobs'],
    }),
    addCard: build.mutation<{ slideId: string }, { id: string; afterSlideId: string | null; card: Card }>({
      ...asks(({ id, ...json }: { id: string; afterSlideId: string | null; card: Card }) =>
        ask(client.lectures[':id'].cards.$post({ ...param(id), json })),
      ),
      invalidatesTags: (_, __, { id }) => [{ type: 'lecture', id }],
    }),
    copySlide: build.mutation<{ slideId: string }, { lectureId: string; slideId: string }>({
      ...asks(({ slideId }: { lectureId: string; slideId: string }) => ask(client.slides[':id'].copy.$post(param(slideId)))),
      invalidatesTags: (_, __, { lectureId }) => [{ type: 'lecture', id: lectureId }],
    }),
    givePicture: build.mutation<{ stepId: string }, { slideId: string; file: File }>({
      ...asks(({ slideId, file }: { slideId: string; file: File }) =>
        sendFile<{ stepId: string }>(`slides/${slideId}/pictures`, file),
      ),
    }),
    drawCard: build.mutation<{ stepId: string }, { slideId: string; card: Card }>({
      ...asks(({ slideId, card }: { slideId: string; card: Card }) =>
        ask(client.slides[':id'].cards.$post({ ...param(slideId), json: card })),
      ),
    }),
  }),
})
