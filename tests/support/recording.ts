/** Recording through the same requests as the booth makes. */
import { randomUUID } from 'node:crypto'
import { setTimeout as wait } from 'node:timers/promises'
import { crc32 } from '#core/audio/signal/crc32.ts'
import { chunksOf } from './chunks.ts'

const sending = (method: string, url: string, body: unknown, headers: Record<string, string> = {}) =>
  fetch(url, { method, headers: { 'content-type': 'application/json', ...headers }, body: JSON.stringify(body) })

export const beginOver = (address: string, takeId: string, slideId: string) =>
  sending('PUT', `${address}/api/takes/${takeId}`, { slideId, microphone: 'Test microphone', startedAt: Date.now() })

/** @returns the chunk expected next: those below it are on disk */
export async function chunkOver(address: string, takeId: string, number: number, chunk: Uint8Array): Promise<number> {
  const answer = await fetch(`${address}/api/takes/${takeId}/chunks/${number}`, {
    method: 'PUT',
    headers: { 'x-checksum': String(crc32(chunk)) },
    body: chunk as BodyInit,
  })
  return ((await answer.json()) as { next: number }).next
}

/** Puts a whole recording on a slide. @returns the take's id */
export async function recordOver(address: string, slideId: string, samples: Float32Array): Promise<string> {
  // whoever made the sound worked for seconds and heard nothing: lines that the server has closed meanwhile are noticed first
  await wait(50)
  const takeId = randomUUID()
  await beginOver(address, takeId, slideId)
  const chunks = chunksOf(samples)
  for (const [i, chunk] of chunks.entries()) await chunkOver(address, takeId, i, chunk)
  const sealed = await sending('POST', `${address}/api/takes/${takeId}/seal`, { chunks: chunks.length, dropoutCount: 0 })
  if (!sealed.ok) throw new Error(await sealed.text())
  return takeId
}

/** A link to record by, for some slides. @returns its token */
export async function makeVoiceLinkOver(
  address: string,
  lectureId: string,
  kind: 'guest' | 'class',
  name: string,
  slideIds: string[],
) {
  const made = await sending('POST', `${address}/api/lectures/${lectureId}/voiceLinks`, { kind, name, slideIds })
  return ((await made.json()) as { token: string }).token
}

/** Somebody comes by a link, records and sends it. */
export async function recordByLinkOver(address: string, token: string, name: string, slideId: string, samples: Float32Array) {
  await wait(50)
  const joined = await sending('POST', `${address}/record/${token}/voices`, { name })
  const voice = { 'x-voice': ((await joined.json()) as { key: string }).key }
  const take = `${address}/record/${token}/takes/${randomUUID()}`
  await sending('PUT', take, { slideId, microphone: 'A microphone', startedAt: Date.now() }, voice)
  const chunks = chunksOf(samples)
  for (const [i, chunk] of chunks.entries())
    await fetch(`${take}/chunks/${i}`, {
      method: 'PUT',
      headers: { ...voice, 'x-checksum': String(crc32(chunk)) },
      body: chunk as BodyInit,
    })
  await sending('POST', `${take}/seal`, { chunks: chunks.length, dropoutCount: 0 }, voice)
  await sending('PUT', `${take}/sent`, {}, voice)
}
