/** The server, as the web side asks it: typed by the server's own routes. */
import { createApi, fakeBaseQuery } from '@reduxjs/toolkit/query/react'
import { type ClientResponse, hc, type InferRequestType, type InferResponseType } from 'hono/client'
import type { SaidSentence } from '#core/captions/compare/compare-takes.ts'
import type { FoundReplacement } from '#core/deck/replace.ts'
import type { CaptionKind, TrackKind } from '#core/model/caption.ts'
import type { Lecture } from '#core/model/lecture.ts'
import type { Card } from '#core/model/slide.ts'
import type { Api } from '#server/http/routes/api.ts'

export const client = hc<Api>('/api')

/** What went wrong, as a sentence for the person. */
export interface Problem {
  status: number
  sentence: string
  data: Record<string, unknown>
}

const OFFLINE: Problem = {
  status: 0,
  sentence: 'Tidy Lectern does not answer. Is it still running? It is tried again.',
  data: {},
}

/** @throws Problem */
export async function ask<T>(request: Promise<ClientResponse<T>>): Promise<T> {
  const response = await request.catch(() => {
    throw OFFLINE
  })
  const body = (await response.json().catch(() => ({}))) as Record<string, unknown>
  if (!response.ok) {
    const sentence = typeof body.error === 'string' ? body.error : 'Something went wrong on the way. Try again.'
    throw { status: response.status, sentence, data: body } satisfies Problem
  }
  return body as T
}

export const isProblem = (error: unknown): error is Problem => typeof error === 'object' && error !== null && 'sentence' in error
export const sentenceOf = (error: unknown) => (isProblem(error) ? error.sentence : 'Something went wrong. Try again.')

async function answer<T>(request: () => Promise<T>): Promise<{ data: T } | { error: Problem }> {
  try {
    return { data: await request() }
  } catch (error) {
    return { error: isProblem(error) ? error : { status: 0, sentence: sentenceOf(error), data: {} } }
  }
}

export type Trashed = InferResponseType<typeof client.lectures.trash.$get>['trashed'][number]
type Shelf = InferResponseType<typeof client.lectures.$get>
export type ShelfEntry = Shelf['lectures'][number]
export type Job = InferResponseType<typeof client.jobs.$get>['jobs'][number]
export type Recording = InferResponseType<(typeof client.lectures)[':id']['recordings']['$get'], 200>['recordings'][number]
type LectureEditions = InferResponseType<(typeof client.lectures)[':id']['editions']['$get'], 200>
export type Edition = LectureEditions['editions'][number]
export type Link = LectureEditions['links'][number]
export type VideoEstimate = InferResponseType<(typeof client.lectures)[':id']['estimates']['$get'], 200>['videos'][number]
export type LinkChange = InferRequestType<(typeof client.links)[':token']['$patch']>['json']

export interface AttachWanted {
  language: string
  kind: TrackKind
  /** The slide whose captions these are; null for the whole lecture's. */
  slideId: string | null
}
export interface AttachedCaptions {
  trackId: string
  kept: number
  problems: { line: number; message: string }[]
}

const param = (id: string) => ({ param: { id } })

/** Sends one file, with some words beside it. */
function sendFile<T>(path: string, file: File, beside: Record<string, string> = {}): Promise<T> {
  const form = new FormData()
  form.append('file', file)
  for (const [name, value] of Object.entries(beside)) form.append(name, value)
  return ask(fetch(`/api/${path}`, { method: 'POST', body: form }) as Promise<ClientResponse<T>>)
}

export const api = createApi({
  baseQuery: fakeBaseQuery<Problem>(),
  tagTypes: ['shelf', 'lecture', 'editions', 'jobs', 'recordings', 'estimates'],
  endpoints: (build) => ({
    shelf: build.query<Shelf, void>({
      queryFn: () => answer(() => ask(client.lectures.$get())),
      providesTags: ['shelf'],
    }),
    lecture: build.query<Lecture, string>({
      queryFn: (id) => answer(() => ask(client.lectures[':id'].$get(param(id))) as Promise<unknown> as Promise<Lecture>),
      providesTags: (_, __, id) => [{ type: 'lecture', id }],
    }),
    editions: build.query<LectureEditions, string>({
      queryFn: (id) => answer(() => ask(client.lectures[':id'].editions.$get(param(id)))),
      providesTags: (_, __, id) => [{ type: 'editions', id }],
    }),
    /** What was deleted of a lecture; null: lectures. */
    trash: build.query<Trashed[], string | null>({
      queryFn: (id) =>
        answer(
          async () =>
            (await ask(id === null ? client.lectures.trash.$get() : client.lectures[':id'].trash.$get(param(id)))).trashed,
        ),
      providesTags: (_, __, id) => (id === null ? ['shelf'] : [{ type: 'lecture', id }]),
    }),
    jobs: build.query<Job[], void>({
      queryFn: () => answer(async () => (await ask(client.jobs.$get())).jobs),
      providesTags: ['jobs'],
    }),
    addDeck: build.mutation<Job, File[]>({
      queryFn: (files) =>
        answer(async () => {
          const form = new FormData()
          for (const file of files) form.append('files', file)
          form.append('language', navigator.language)
          return (await ask(fetch('/api/lectures', { method: 'POST', body: form }) as Promise<ClientResponse<{ job: Job }>>)).job
        }),
    }),
    /** The demo lecture, for trying things out. */
    addDemo: build.mutation<Job, void>({
      queryFn: () => answer(async () => (await ask(client.lectures.demo.$post())).job),
    }),
    /** A new version of a lecture's deck, to be compared. */
    addNewDeck: build.mutation<Job, { id: string; files: File[] }>({
      queryFn: ({ id, files }) =>
        answer(async () => {
          const form = new FormData()
          for (const file of files) form.append('files', file)
          const request = fetch(`/api/lectures/${id}/decks`, { method: 'POST', body: form })
          return (await ask(request as Promise<ClientResponse<{ job: Job }>>)).job
        }),
      invalidatesTags: ['jobs'],
    }),
    /** What differs in a new version of a deck. */
    replacement: build.query<FoundReplacement, string>({
      queryFn: (id) => answer(() => ask(client.lectures.replacements[':id'].$get(param(id)))),
    }),
    takeOver: build.mutation<
      { steps: { slideId: string; stepId: string }[]; slideIds: string[] },
      { id: string; changed: string[]; added: number[] }
    >({
      queryFn: ({ id, ...json }) => answer(() => ask(client.lectures.replacements[':id'].$post({ ...param(id), json }))),
    }),
    attachCaptions: build.mutation<AttachedCaptions, { id: string; file: File } & AttachWanted>({
      queryFn: ({ id, file, language, kind, slideId }) =>
        answer(() => sendFile<AttachedCaptions>(`lectures/${id}/captions`, file, { language, kind, slideId: slideId ?? '' })),
      invalidatesTags: (_, __, { id }) => [{ type: 'lecture', id }],
    }),
    addCaptionTrack: build.mutation<
      { trackId: string },
      { id: string; language: string; label: string; origin: 'file' | 'translation'; kind: CaptionKind }
    >({
      queryFn: ({ id, ...json }) => answer(() => ask(client.lectures[':id'].captionTracks.$post({ ...param(id), json }))),
      invalidatesTags: (_, __, { id }) => [{ type: 'lecture', id }],
    }),
    storage: build.query<InferResponseType<typeof client.storage.$get, 200>, void>({
      queryFn: () => answer(() => ask(client.storage.$get())),
    }),
    /** Whether an administrator has added a speech recogniser. */
    recogniser: build.query<{ installed: boolean }, void>({
      queryFn: () => answer(() => ask(client.recogniser.$get())),
    }),
    recognise: build.mutation<Job, string>({
      queryFn: (slideId) => answer(async () => (await ask(client.slides[':id'].recognition.$post(param(slideId)))).job),
      invalidatesTags: ['jobs'],
    }),
    /** A sentence said again, into the place of the first one. Samples of the take that has it. */
    sayAgain: build.mutation<Job, { takeId: string; againTakeId: string; text: string; start: number; end: number }>({
      queryFn: (json) => answer(async () => (await ask(client.takes.again.$post({ json }))).job),
      invalidatesTags: ['jobs'],
    }),
    /** Where a take has its sentences; with the lecture, since a take is listened to after it was kept. */
    said: build.query<SaidSentence[], { takeId: string; lectureId: string }>({
      queryFn: ({ takeId }) => answer(async () => (await ask(client.takes[':id'].sentences.$get(param(takeId)))).sentences),
      providesTags: (_, __, { lectureId }) => [{ type: 'lecture', id: lectureId }],
    }),
    recordings: build.query<Recording[], string>({
      queryFn: (id) => answer(async () => (await ask(client.lectures[':id'].recordings.$get(param(id)))).recordings),
      providesTags: (_, __, id) => [{ type: 'recordings', id }],
    }),
    /** A sound file as a take of a slide. */
    addSound: build.mutation<Job, { slideId: string; file: File }>({
      queryFn: ({ slideId, file }) => answer(async () => (await sendFile<{ job: Job }>(`slides/${slideId}/sounds`, file)).job),
      invalidatesTags: ['jobs'],
    }),
    /** A recording over many slides. */
    addRecording: build.mutation<Job, { id: string; file: File }>({
      queryFn: ({ id, file }) => answer(async () => (await sendFile<{ job: Job }>(`lectures/${id}/recordings`, file)).job),
      invalidatesTags: ['jobs'],
    }),
    divide: build.mutation<Job, { recordingId: string; slideIds: string[]; boundaries: number[] }>({
      queryFn: ({ recordingId, ...division }) =>
        answer(async () => (await ask(client.recordings[':id'].division.$post({ ...param(recordingId), json: division }))).job),
      invalidatesTags: ['jobs'],
    }),
    addBed: build.mutation<Job, { id: string; file: File; fromSlideId: string; toSlideId: string }>({
      queryFn: ({ id, file, ...run }) => answer(async () => (await sendFile<{ job: Job }>(`lectures/${id}/beds`, file, run)).job),
      invalidatesTags: ['jobs'],
    }),
    addCard: build.mutation<{ slideId: string }, { id: string; afterSlideId: string | null; card: Card }>({
      queryFn: ({ id, ...json }) => answer(() => ask(client.lectures[':id'].cards.$post({ ...param(id), json }))),
      invalidatesTags: (_, __, { id }) => [{ type: 'lecture', id }],
    }),
    copySlide: build.mutation<{ slideId: string }, { lectureId: string; slideId: string }>({
      queryFn: ({ slideId }) => answer(() => ask(client.slides[':id'].copy.$post(param(slideId)))),
      invalidatesTags: (_, __, { lectureId }) => [{ type: 'lecture', id: lectureId }],
    }),
    givePicture: build.mutation<{ stepId: string }, { slideId: string; file: File }>({
      queryFn: ({ slideId, file }) => answer(() => sendFile<{ stepId: string }>(`slides/${slideId}/pictures`, file)),
    }),
    drawCard: build.mutation<{ stepId: string }, { slideId: string; card: Card }>({
      queryFn: ({ slideId, card }) => answer(() => ask(client.slides[':id'].cards.$post({ ...param(slideId), json: card }))),
    }),
    publish: build.mutation<Job, string>({
      queryFn: (id) => answer(async () => (await ask(client.lectures[':id'].editions.$post(param(id)))).job),
      invalidatesTags: ['jobs'],
    }),
    cancelJob: build.mutation<Job, string>({
      queryFn: (id) => answer(async () => (await ask(client.jobs[':id'].cancel.$post(param(id)))).job),
      invalidatesTags: ['jobs'],
    }),
    makeLink: build.mutation<{ token: string }, { id: string; name: string }>({
      queryFn: ({ id, name }) => answer(() => ask(client.lectures[':id'].links.$post({ ...param(id), json: { name } }))),
      invalidatesTags: (_, __, { id }) => [{ type: 'editions', id }],
    }),
    changeLink: build.mutation<unknown, { lectureId: string; token: string; change: LinkChange }>({
      queryFn: ({ token, change }) => answer(() => ask(client.links[':token'].$patch({ param: { token }, json: change }))),
      invalidatesTags: (_, __, { lectureId }) => [{ type: 'editions', id: lectureId }],
    }),
    /** What each kind of video would be, learnt from what is made already. */
    estimates: build.query<VideoEstimate[], string>({
      queryFn: (id) => answer(async () => (await ask(client.lectures[':id'].estimates.$get(param(id)))).videos),
      providesTags: ['estimates'],
    }),
    giveCrest: build.mutation<{ picture: string }, { id: string; file: File }>({
      queryFn: ({ id, file }) => answer(() => sendFile<{ picture: string }>(`lectures/${id}/crests`, file)),
    }),
  }),
})

export const pictureUrl = (name: string) => `/api/files/${name}.png`
export const thumbnailUrl = (name: string) => `/api/files/${name}.webp`
export const soundUrl = (name: string) => `/api/files/${name}.flac`
export const spectrogramUrl = (name: string) => `/api/files/${name}.spectrogram`
export const samplesUrl = (takeId: string, start: number, end: number) => `/api/takes/${takeId}/samples?start=${start}&end=${end}`
export const peaksUrl = (name: string) => `/api/files/${name}.peaks`
