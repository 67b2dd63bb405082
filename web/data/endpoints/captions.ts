/** What the captions page asks of the server. */
import type { CaptionKind } from '#core/model/caption.ts'
import { type AttachedCaptions, type AttachWanted, api, ask, asks, client, param, sendFile } from '#web/data/api.ts'

export const captionsApi = api.injectEndpoints({
  endpoints: (build) => ({
    attachCaptions: build.mutation({
      ...asks(({ id, file, language, kind, slideId }: { id: string; file: File } & AttachWanted) =>
        sendFile<AttachedCaptions>(`lectures/${id}/captions`, file, { language, kind, slideId: slideId ?? '' }),
      ),
      invalidatesTags: (_, __, { id }) => [{ type: 'lecture', id }],
    }),
    addCaptionTrack: build.mutation({
      ...asks(
        ({ id, ...json }: { id: string; language: string; label: string; origin: 'file' | 'translation'; kind: CaptionKind }) =>
          ask(client.lectures[':id'].captionTracks.$post({ ...param(id), json })),
      ),
      invalidatesTags: (_, __, { id }) => [{ type: 'lecture', id }],
    }),
    /** What could write drafts of captions, and where models are put. */
    recognisers: build.query({
      ...asks(() => ask(client.recognisers.$get())),
    }),
    recognise: build.mutation({
      ...asks(async (slideId: string) => (await ask(client.slides[':id'].recognition.$post(param(slideId)))).job),
      invalidatesTags: ['jobs'],
    }),
  }),
})
