/** Somebody who opens a link to record by, as their browser asks. */
import { randomUUID } from 'node:crypto'
import { crc32 } from '#core/audio/signal/crc32.ts'
import { chunksOf } from '#tests/support/chunks.ts'
import type { TestApp } from '../harness.ts'

/** As another machine on the network sees the server. */
const ADDRESS = '192.0.2.7'
const HOST = 'lectern.example'

interface Recording {
  id: string
  slideId: string
  state: string
  isSealed: boolean
}
export interface BoothView {
  kind: string
  isOpen: boolean
  title: string
  slides: { id: string; number: number; script: string; steps: { picture: string; thumbnail: string }[] }[]
  voice: { name: string } | null
  recordings: Recording[]
  refusal: { id: string } | null
}

export async function makeLink(app: TestApp, lectureId: string, kind: 'guest' | 'class', slideIds: string[]): Promise<string> {
  const made = await app.json('POST', `/api/lectures/${lectureId}/voiceLinks`, { kind, name: 'For somebody', slideIds })
  return ((await made.json()) as { token: string }).token
}

/** A browser that is not on this machine. */
export function visitor(app: TestApp, token: string) {
  let key = ''
  let cookie = ''
  const ask = async (path: string, method = 'GET', body?: BodyInit, headers: Record<string, string> = {}) => {
    const sent = { ...(key && { 'x-voice': key }), ...(cookie && { cookie }), ...headers, host: HOST }
    const answer = await app.ask(
      `/record/${token}/${path}`,
      { method, headers: sent, ...(body === undefined ? {} : { body }) },
      ADDRESS,
    )
    cookie = answer.headers.get('set-cookie')?.split(';')[0] ?? cookie
    return answer
  }
  const json = (method: string, path: string, body: unknown = {}) =>
    ask(path, method, JSON.stringify(body), { 'content-type': 'application/json' })
  return {
    ask,
    json,
    booth: async () => (await (await ask('booth')).json()) as BoothView,
    async join(name: string) {
      const joined = await json('POST', 'voices', { name })
      if (joined.ok) key = ((await joined.json()) as { key: string }).key
      return joined
    },
    key: () => key,
    begin: (takeId: string, slideId: string, startedAt = Date.now()) =>
      json('PUT', `takes/${takeId}`, { slideId, microphone: 'A microphone', startedAt }),
    chunk: (takeId: string, chunk: number, pcm: Uint8Array) =>
      ask(`takes/${takeId}/chunks/${chunk}`, 'PUT', pcm as BodyInit, { 'x-checksum': String(crc32(pcm)) }),
    seal: (takeId: string, chunks: number) => json('POST', `takes/${takeId}/seal`, { chunks, dropoutCount: 0 }),
    /** @returns the id of what was recorded */
    async record(slideId: string, samples: Float32Array): Promise<string> {
      const takeId = randomUUID()
      await this.begin(takeId, slideId)
      const chunks = chunksOf(samples)
      for (const [i, chunk] of chunks.entries()) await this.chunk(takeId, i, chunk)
      const sealed = await this.seal(takeId, chunks.length)
      if (!sealed.ok) throw new Error(await sealed.text())
      await app.idle()
      return takeId
    },
    send: (takeId: string) => json('PUT', `takes/${takeId}/sent`),
    withdraw: (takeId: string, withdrawn = true) => json('PUT', `takes/${takeId}/withdrawn`, { withdrawn }),
  }
}
