/** The server, as the web side asks it: typed by the server's own routes. */

import { type BaseQueryFn, createApi } from '@reduxjs/toolkit/query/react'
import { type ClientResponse, hc, type InferRequestType, type InferResponseType } from 'hono/client'
import type { TrackKind } from '#core/model/caption.ts'
import type { Lecture } from '#core/model/lecture.ts'
import { isMessage, type Message, say } from '#core/words/say.ts'
import type { Api } from '#server/http/routes/api.ts'

/** Told to the page when the server does not know any more who asks. */
export const SIGNED_OUT = 'lectern-signed-out'

export const client = hc<Api>('/api')

/** What went wrong, as a sentence for the person. */
export interface Problem {
  status: number
  sentence: string
  data: Record<string, unknown>
}

const offline = (): Problem => ({
  status: 0,
  sentence: say('Tidy Lectern does not answer. Is it still running? It is tried again.'),
  data: {},
})

/** @throws Problem */
export async function ask<T>(request: Promise<ClientResponse<T>>): Promise<T> {
  const response = await request.catch(() => {
    throw offline()
  })
  const body = (await response.json().catch(() => ({}))) as Record<string, unknown>
  if (response.status === 401 && body.refused === true) window.dispatchEvent(new Event(SIGNED_OUT))
  if (!response.ok) {
    const known = isMessage(body.said) ? say(body.said) : typeof body.error === 'string' ? body.error : null
    const sentence = known ?? say('Something went wrong on the way. Try again.')
    throw { status: response.status, sentence, data: body } satisfies Problem
  }
  return body as T
}

export const isProblem = (error: unknown): error is Problem => typeof error === 'object' && error !== null && 'sentence' in error
export const sentenceOf = (error: unknown) => (isProblem(error) ? error.sentence : say('Something went wrong. Try again.'))

export type Trashed = InferResponseType<typeof client.lectures.trash.$get>['trashed'][number]
export type Shelf = InferResponseType<typeof client.lectures.$get>
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
  problems: { line: number; message: Message }[]
}

export const param = (id: string) => ({ param: { id } })

/** Sends files, with some words beside them. */
export const sendForm = <T>(path: string, form: FormData): Promise<T> =>
  ask(fetch(`/api/${path}`, { method: 'POST', body: form }) as Promise<ClientResponse<T>>)

/** Sends one file, with some words beside it. */
export function sendFile<T>(path: string, file: File, beside: Record<string, string> = {}): Promise<T> {
  const form = new FormData()
  form.append('file', file)
  for (const [name, value] of Object.entries(beside)) form.append(name, value)
  return sendForm(path, form)
}

/** One way for every question: an answer, or what is wrong as a sentence. */
const baseQuery: BaseQueryFn<() => Promise<unknown>, unknown, Problem> = async (request) => {
  try {
    return { data: await request() }
  } catch (error) {
    return { error: isProblem(error) ? error : { status: 0, sentence: sentenceOf(error), data: {} } }
  }
}

interface Asked<A, T> {
  query: (argument: A) => () => Promise<T>
  transformResponse: (answer: T) => T
}
/** An endpoint's question, typed by what answers it. */
export function asks<T>(request: () => Promise<T>): Asked<void, T>
export function asks<A, T>(request: (argument: A) => Promise<T>): Asked<A, T>
export function asks<A, T>(request: (argument: A) => Promise<T>): Asked<A, T> {
  return { query: (argument) => () => request(argument), transformResponse: (answer) => answer }
}

/** What several places ask; a place adds what only it asks (`injectEndpoints`). */
export const api = createApi({
  baseQuery,
  tagTypes: [
    'shelf',
    'quotas',
    'lecture',
    'editions',
    'jobs',
    'recordings',
    'estimates',
    'me',
    'proofs',
    'people',
    'spaces',
    'members',
    'comments',
    'voiceLinks',
    'answers',
    'ownBooth',
    'platforms',
  ],
  endpoints: (build) => ({
    lecture: build.query({
      ...asks((id: string) => ask(client.lectures[':id'].$get(param(id))) as Promise<unknown> as Promise<Lecture>),
      providesTags: (_, __, id) => [{ type: 'lecture', id }],
    }),
    editions: build.query({
      ...asks((id: string) => ask(client.lectures[':id'].editions.$get(param(id)))),
      providesTags: (_, __, id) => [{ type: 'editions', id }],
    }),
    jobs: build.query({
      ...asks(async () => (await ask(client.jobs.$get())).jobs),
      providesTags: ['jobs'],
    }),
    /** Says that this page is there; what comes back, and what events bring, is who else is. */
    here: build.query({
      ...asks(({ lectureId: id, ...json }: { lectureId: string; page: string; slideId: string | null }) =>
        ask(client.lectures[':id'].here.$post({ param: { id }, json: { ...json, isHere: true } })),
      ),
      // of one lecture there is one list, whatever slide is open
      serializeQueryArgs: ({ queryArgs }) => queryArgs.lectureId,
      forceRefetch: ({ currentArg, previousArg }) => currentArg?.slideId !== previousArg?.slideId,
    }),
    /** A recording over many slides. */
    addRecording: build.mutation({
      ...asks(
        async ({ id, file }: { id: string; file: File }) => (await sendFile<{ job: Job }>(`lectures/${id}/recordings`, file)).job,
      ),
      invalidatesTags: ['jobs'],
    }),
    addBed: build.mutation({
      ...asks(
        async ({ id, file, ...run }: { id: string; file: File; fromSlideId: string; toSlideId: string }) =>
          (await sendFile<{ job: Job }>(`lectures/${id}/beds`, file, run)).job,
      ),
      invalidatesTags: ['jobs'],
    }),
  }),
})

export const pictureUrl = (name: string) => `/api/files/${name}.png`
export const thumbnailUrl = (name: string) => `/api/files/${name}.webp`
export const soundUrl = (name: string) => `/api/files/${name}.flac`
export const filmUrl = (name: string) => `/api/files/${name}.mp4`
export const spectrogramUrl = (name: string) => `/api/files/${name}.spectrogram`
export const samplesUrl = (takeId: string, start: number, end: number) => `/api/takes/${takeId}/samples?start=${start}&end=${end}`
export const peaksUrl = (name: string) => `/api/files/${name}.peaks`
