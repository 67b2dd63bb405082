/** How much memory the server takes for an hour, in one take or straight through: sent as the booth sends it, stopped, divided, tidied, drawn, and its journal let go. */
import { randomUUID } from 'node:crypto'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { crc32 } from 'node:zlib'
import { importDeck } from '#bench/measure/import-deck.ts'
import { toSamples } from '#core/timing/clocks.ts'
import { chunksOf } from '#tests/support/chunks.ts'
import { type ServerProcess, serverProcess } from '#tests/support/processes/server-process.ts'

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

/**
 * Records faster than anybody speaks.
 *
 * @param chunks of a second each, again and again
 * @param through over all slides, as long on each; or on the first alone
 */
async function record(
  server: ServerProcess,
  lectureId: string,
  chunks: readonly Uint8Array[],
  seconds: number,
  through: boolean,
) {
  const takeId = randomUUID()
  const { slides } = await server.lecture(lectureId)
  await ask(server, 'PUT', `/takes/${takeId}`, {
    slideId: slides[0]!.id,
    microphone: 'bench',
    startedAt: Date.now(),
    isContinuous: through,
  })
  const before = new Set(slides.flatMap(({ takes }) => takes.map(({ id }) => id)))
  for (let i = 0; i < seconds; i++) {
    const chunk = chunks[i % chunks.length]!
    await ask(server, 'PUT', `/takes/${takeId}/chunks/${i}`, chunk, { 'x-checksum': String(crc32(chunk)) })
  }
  const changes = through ? slides.slice(1) : []
  const marks = changes.map(({ id }, i) => ({ kind: 'slide', at: toSamples(((i + 1) * seconds) / slides.length), slideId: id }))
  await ask(server, 'PUT', `/takes/${takeId}/marks`, { marks })
  await ask(server, 'POST', `/takes/${takeId}/seal`, { chunks: seconds, dropoutCount: 0 })
  for (;;) {
    const made = (await server.lecture(lectureId)).slides.flatMap(({ takes }) => takes).filter(({ id }) => !before.has(id))
    for (const { problem } of made) if (problem) throw new Error(problem.id)
    if (made.length === 1 + changes.length && made.every(({ spectrogram, clip }) => spectrogram && clip)) return
    await new Promise((resolve) => setTimeout(resolve, 500))
  }
}

/** @param through all slides @returns MB that a long recording takes above what one of ten seconds does */
export async function serverMegabytes(take: Float32Array, seconds: number, through: boolean): Promise<number> {
  const data = mkdtempSync(join(tmpdir(), 'lectern-memory-'))
  const server = await serverProcess(data)
  await server.start()
  try {
    const lectureId = await importDeck(server)
    const chunks = chunksOf(take.subarray(0, take.length - (take.length % 48_000)))
    await record(server, lectureId, chunks, 10, false)
    const base = server.mostMegabytes()
    await record(server, lectureId, chunks, seconds, through)
    return server.mostMegabytes() - base
  } finally {
    await server.kill()
    rmSync(data, { recursive: true, force: true })
  }
}
