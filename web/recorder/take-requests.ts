/** What is asked about a take that is recorded: of its lecture, or by the link of whoever lends it a voice. */
import type { Mark } from '#core/model/marks.ts'
import { ask } from '#web/data/api.ts'
import type { KeptTake } from './kept/chunk-store.ts'

/** Somebody who came by a link: it, and what their browser shows to be them. */
export interface LinkVoice {
  token: string
  key: string
}

/** Where a link is asked. */
export const linkAddress = (token: string) => `/record/${encodeURIComponent(token)}`

type Answered = Promise<Response & { json(): Promise<unknown> }>

/** @throws Problem */
async function send<T>(
  { id, voice }: Pick<KeptTake, 'id' | 'voice'>,
  path: string,
  method: string,
  init: RequestInit,
): Promise<T> {
  const base = voice ? `${linkAddress(voice.token)}/takes/${id}` : `/api/takes/${id}`
  const headers = { ...(init.headers as Record<string, string>), ...(voice && { 'x-voice': voice.key }) }
  return (await ask(fetch(`${base}${path}`, { ...init, method, headers }) as Answered as never)) as T
}

const asJson = (body: unknown): RequestInit => ({ headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) })

/** Each throws a `Problem`. */
export const takeRequests = {
  begin: ({ slideId, microphone, startedAt, isContinuous, ...take }: KeptTake) =>
    send(take, '', 'PUT', asJson({ slideId, microphone, startedAt, isContinuous })),
  marks: (take: KeptTake, marks: readonly Mark[]) => send(take, '/marks', 'PUT', asJson({ marks })),
  /** @returns the chunk the server expects next */
  chunk: (take: KeptTake, chunk: number, checksum: number, pcm: Uint8Array<ArrayBuffer>) =>
    send<{ next: number }>(take, `/chunks/${chunk}`, 'PUT', { headers: { 'x-checksum': String(checksum) }, body: pcm }),
  seal: (take: KeptTake, ending: { chunks: number; dropoutCount: number; dropoutMs: number; recovered: boolean }) =>
    send(take, '/seal', 'POST', asJson(ending)),
}
