import type { FilmCaptions } from '#core/model/moving/film-captions.ts'
import type { Card } from '#core/model/slide.ts'
import { type AttachedCaptions, api, ask, asks, client, type Job, param, sendFile, sendForm } from '#web/data/api.ts'

export const sheetApi = api.injectEndpoints({
  endpoints: (build) => ({
    /** A new version of a lecture's deck, to be compared. */
    addNewDeck: build.mutation({
      ...asks(async ({ id, files }: { id: string; files: File[] }) => {
        const form = new FormData()
        for (const file of files) form.append('files', file)
        return (await sendForm<{ job: Job }>(`lectures/${id}/decks`, form)).job
      }),
      invalidatesTags: ['jobs'],
    }),
    /** What differs in a new version of a deck. */
    replacement: build.query({
      ...asks((id: string) => ask(client.lectures.replacements[':id'].$get(param(id)))),
    }),
    takeOver: build.mutation({
      ...asks(({ id, ...json }: { id: string; changed: string[]; added: number[] }) =>
        ask(client.lectures.replacements[':id'].$post({ ...param(id), json })),
      ),
    }),
    /** A sound file as a take of a slide. */
    addSound: build.mutation({
      ...asks(
        async ({ slideId, file }: { slideId: string; file: File }) =>
          (await sendFile<{ job: Job }>(`slides/${slideId}/sounds`, file)).job,
      ),
      invalidatesTags: ['jobs'],
    }),
    /** A film on a slide, with its last picture. */
    addFilm: build.mutation({
      ...asks(({ slideId, file }: { slideId: string; file: File }) =>
        sendFile<{ filmId: string; job: Job }>(`slides/${slideId}/films`, file),
      ),
      invalidatesTags: ['jobs'],
    }),
    /** What a caption file holds for a film. */
    readFilmCaptions: build.mutation({
      ...asks(({ filmId, file, language }: { filmId: string; file: File; language: string }) =>
        sendFile<{ captions: FilmCaptions; problems: AttachedCaptions['problems'] }>(`films/${filmId}/captionFiles`, file, {
          language,
        }),
      ),
    }),
    tryFilm: build.mutation({
      ...asks(({ id }: { id: string }) => ask(client.films[':id'].tries.$post(param(id)))),
      invalidatesTags: ['jobs'],
    }),
    tryFootage: build.mutation({
      ...asks(({ id }: { id: string }) => ask(client.footage[':id'].tries.$post(param(id)))),
      invalidatesTags: ['jobs'],
    }),
    addCard: build.mutation({
      ...asks(({ id, ...json }: { id: string; afterSlideId: string | null; card: Card }) =>
        ask(client.lectures[':id'].cards.$post({ ...param(id), json })),
      ),
      invalidatesTags: (_, __, { id }) => [{ type: 'lecture', id }],
    }),
    copySlide: build.mutation({
      ...asks(({ slideId }: { lectureId: string; slideId: string }) => ask(client.slides[':id'].copy.$post(param(slideId)))),
      invalidatesTags: (_, __, { lectureId }) => [{ type: 'lecture', id: lectureId }],
    }),
    givePicture: build.mutation({
      ...asks(({ slideId, file, insteadOf }: { slideId: string; file: File; insteadOf: string }) =>
        sendFile<{ stepId: string }>(`slides/${slideId}/pictures`, file, { insteadOf }),
      ),
    }),
    drawCard: build.mutation({
      ...asks(({ slideId, card }: { slideId: string; card: Card }) =>
        ask(client.slides[':id'].cards.$post({ ...param(slideId), json: card })),
      ),
    }),
  }),
})
