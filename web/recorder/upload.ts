/** Brings kept takes to the server: in order, again and again until it has them, one tab at a time for each take. */

import { crc32 } from '#core/audio/signal/crc32.ts'
import type { Mark } from '#core/model/marks.ts'
import { say } from '#core/words/say.ts'
import { ask, client, isProblem } from '#web/data/api.ts'
import { chunkStore, type KeptFootage, type KeptTake } from './kept/chunk-store.ts'
import { takeRequests } from './take-requests.ts'

const PAUSES_MS = [500, 1000, 2000, 5000]

export type UploadState = 'sending' | 'waiting' | 'sealed' | 'refused'

/** Tells in a sentence that pictures were refused for good. */
type TellRefused = (sentence: string) => void

export interface UploadReport {
  state: UploadState
  /** Chunks that are on the server's disk. */
  sent: number
  /** A sentence, when something is in the way. */
  problem: string | null
}

const sleep = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms))
const lockName = (takeId: string) => `lectern-take-${takeId}`

/** What the server will never take, however often it is sent. */
const isFinal = (error: unknown) => isProblem(error) && [400, 404, 409, 413, 415].includes(error.status)

async function sendPiece({ id, takeId }: KeptFootage, piece: number, bytes: Uint8Array<ArrayBuffer>): Promise<number> {
  const response = fetch(`/api/takes/${takeId}/footage/${id}/pieces/${piece}`, {
    method: 'PUT',
    headers: { 'x-checksum': String(crc32(bytes)) },
    body: bytes,
  })
  return ((await ask(response as Promise<Response & { json(): Promise<{ next: number }> }> as never)) as { next: number }).next
}

/**
 * Sends what is kept of a take's pictures, a piece of each: the sound never waits for more than that.
 *
 * @param begun footage that the server knows
 * @param isOver nothing more will come of it
 * @returns whether something was sent, and how much is left
 */
async function sendFootage(
  takeId: string,
  begun: Set<string>,
  isOver: boolean,
  tellRefused: TellRefused,
): Promise<{ sent: boolean; left: number }> {
  let sent = false
  // a browser that keeps sound and refuses pictures has none to send
  const kept = await chunkStore.footageOf(takeId).catch(() => [])
  let left = kept.length
  for (const footage of kept) {
    const { id, kind, codec, width, height, isPractice } = footage
    const param = { id: takeId, footageId: id }
    try {
      if (!begun.has(id)) {
        await ask(client.takes[':id'].footage[':footageId'].$put({ param, json: { kind, codec, width, height, isPractice } }))
        begun.add(id)
      }
      const first = await chunkStore.firstPiece(id)
      if (first) {
        const next = await sendPiece(footage, first.piece, first.bytes)
        // the server lost the beginning: what comes after it cannot be shown
        if (next <= first.piece) throw { status: 409, sentence: say('The server lost the beginning of this picture.'), data: {} }
        await chunkStore.dropPiece(id, first.piece)
        sent = true
      } else if (footage.pieces !== null || isOver) {
        const json = { pieces: footage.pieces ?? 0, recovered: footage.pieces === null }
        await ask(client.takes[':id'].footage[':footageId'].seal.$post({ param, json }))
        await chunkStore.dropFootage(id)
        left--
        sent = true
      }
    } catch (error) {
      // of the take itself 422 means that nothing was recorded: of a picture that it is sent again
      if (!isFinal(error)) throw isProblem(error) && error.status === 422 ? { ...error, status: 0 } : error
      // pictures must not stand in the way of the sound
      const { sentence: problem } = error as { sentence: string }
      tellRefused(say('Pictures of a take could not be kept: {problem} Its voice is kept.', { problem }))
      await chunkStore.dropFootage(id)
      left--
    }
  }
  return { sent, left }
}

/** Marks that the server cannot read must not stand in the way of the sound. */
async function sendMarks(take: KeptTake, marks: Mark[]) {
  await takeRequests.marks(take, marks).catch((error) => {
    if (!isProblem(error) || error.status !== 422) throw error
    console.error('Marks were refused:', error.sentence)
  })
}

/**
 * Sends a take until it is sealed, or until the server will never take it. While the recording goes on, waits for more.
 *
 * @param recovered true when the recorder itself is gone: what is kept is all there will be
 */
async function sendTake(takeId: string, recovered: boolean, report: (report: UploadReport) => void, tellRefused: TellRefused) {
  let began = false
  /** Marks that the server has. */
  let marked = 0
  const begun = new Set<string>()
  let sent = 0
  let failures = 0
  for (;;) {
    const take = await chunkStore.take(takeId)
    if (!take) return
    try {
      if (!began) {
        await takeRequests.begin(take)
        began = true
      }
      // takes that an earlier version kept have none
      const { marks = [] } = take
      if (marks.length > marked) {
        await sendMarks(take, marks)
        marked = marks.length
      }
      const first = await chunkStore.firstChunk(takeId)
      if (first) {
        const { next } = await takeRequests.chunk(take, first.chunk, crc32(first.pcm), first.pcm)
        // the server may lack earlier chunks only when it lost its data folder; then nothing can be dropped
        if (next > first.chunk) await chunkStore.dropChunk(takeId, first.chunk)
        else
          throw {
            status: 409,
            sentence: say('The server lost the beginning of this recording; the rest is kept in this browser.'),
            data: {},
          }
        sent = first.chunk + 1
      }
      // a take that has come to its end has all its pictures here
      const pictures = await sendFootage(takeId, begun, take.ended !== null || recovered, tellRefused)
      if (first || pictures.sent || pictures.left > 0) {
        if (!first && !pictures.sent) await sleep(100)
      } else if (take.ended || recovered) {
        const { chunks, dropoutCount, dropoutMs } = take.ended ?? { chunks: sent, dropoutCount: 0, dropoutMs: 0 }
        await takeRequests.seal(take, { chunks, dropoutCount, dropoutMs, recovered: take.ended === null })
        await chunkStore.dropTake(takeId)
        report({ state: 'sealed', sent, problem: null })
        return
      } else await sleep(100)
      failures = 0
      report({ state: 'sending', sent, problem: null })
    } catch (error) {
      const problem = isProblem(error) ? error : { status: 0, sentence: String(error) }
      if (problem.status === 422 && !(await chunkStore.firstChunk(takeId))) {
        await chunkStore.dropTake(takeId) // nothing was recorded
        report({ state: 'refused', sent, problem: problem.sentence })
        return
      }
      if (problem.status === 404 && !began) {
        report({ state: 'refused', sent, problem: problem.sentence })
        return
      }
      marked = 0
      begun.clear()
      began = false // a server that was started anew may have let go of a take that had no sound yet
      report({ state: 'waiting', sent, problem: problem.sentence })
      await sleep(PAUSES_MS[Math.min(failures++, PAUSES_MS.length - 1)]!)
    }
  }
}

/** Sends the take that this tab records. No other tab touches it meanwhile. */
export function uploadOwn(takeId: string, report: (report: UploadReport) => void, tellRefused: TellRefused) {
  return navigator.locks.request(lockName(takeId), () => sendTake(takeId, false, report, tellRefused))
}

/** Sends takes that no tab is recording: those of tabs that were closed or died. @param onSealed told for each one brought home */
export async function resumeUploads(onSealed: (take: KeptTake) => void, tellRefused: TellRefused) {
  for (const take of await chunkStore.takes().catch(() => [])) {
    await navigator.locks.request(lockName(take.id), { ifAvailable: true }, async (lock) => {
      if (!lock) return
      await sendTake(take.id, true, ({ state }) => state === 'sealed' && onSealed(take), tellRefused)
    })
  }
}
