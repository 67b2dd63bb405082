/** How much memory the server takes for an hour in one take: sent as the booth sends it, stopped, tidied, drawn, and its journal let go. */
import { randomUUID } from 'node:crypto'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { crc32 } from 'node:zlib'
import { chunksOf } from '#tests/chunks.ts'
import { type ServerProcess, serverProcess } from '#tests/server-process.ts'
import { importDeck } from '../import-deck.ts'

async function ask(server: ServerProcess, method: string, path: string, body: unknown, headers = {}) {
  const given = body instanceof Uint8Array ? body : JSON.stringify(body)
  const type: Record<string, string> = body instanceof Uint8Array ? {} : { 'content-type': 'application/json' }
  const answer = await fetch(`${server.address}/api${path}`, {
    method,
    headers: { ...type, ...headers },
    body: given as BodyInit,
  })
  if (!answer.ok) throw new Error(await answer.text())
}

/** Records on the first slide, faster than anybody speaks. @param chunks of a second each, again and again */
async function record(server: ServerProcess, lectureId: string, chunks: readonly Uint8Array[], seconds: number) {
  const takeId = randomUUID()
  const { slides } = await server.lecture(lectureId)
  await ask(server, 'PUT', `/takes/${takeId}`, { slideId: slides[0]!.id, microphone: 'bench', startedAt: Date.now() })
  for (let i = 0; i < seconds; i++) {
    const chunk = chunks[i % chunks.length]!
    await ask(server, 'PUT', `/takes/${takeId}/chunks/${i}`, chunk, { 'x-checksum': String(crc32(chunk)) })
  }
  await ask(server, 'POST', `/takes/${takeId}/seal`, { chunks: seconds, gaps: 0 })
  for (;;) {
    const takes = (await server.lecture(lectureId)).slides[0]!.takes
    const take = takes.find(({ id }) => id === takeId)!
    if (take.problem) throw new Error(take.problem)
    if (take.spectrogram && take.clip) return
    await new Promise((resolve) => setTimeout(resolve, 500))
  }
}

/** @returns MB that a long take takes above what one of ten seconds does */
export async function serverMegabytes(take: Float32Array, seconds: number): Promise<number> {
  const data = mkdtempSync(join(tmpdir(), 'lectern-memory-'))
  const server = await serverProcess(data)
  await server.start()
  try {
    const lectureId = await importDeck(server)
    const chunks = chunksOf(take.subarray(0, take.length - (take.length % 48_000)))
    await record(server, lectureId, chunks, 10)
    const base = server.mostMegabytes()
    await record(server, lectureId, chunks, seconds)
    return server.mostMegabytes() - base
  } finally {
    await server.kill()
    rmSync(data, { recursive: true, force: true })
  }
}
