/** A server that is killed again and again while screens and cameras are recorded: what was acknowledged is there. Runs with `--long`. */
import { randomUUID } from 'node:crypto'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { expect, test } from 'vitest'
import { noise } from '#tests/made/sound.ts'
import { chunksOf } from '#tests/support/chunks.ts'
import { piecesOf, recordedFrames, sendPiece } from '#tests/support/footage.ts'
import { IS_LONG } from '#tests/support/long.ts'
import { type ServerProcess, serverProcess } from '#tests/support/processes/server-process.ts'
import { beginOver, chunkOver } from '#tests/support/recording.ts'
import { seedFolder } from '#tests/support/seed.ts'

const KILLS = Number(process.env.LECTERN_KILLS ?? 12)
const AT_ONCE = 3
const SECONDS = 40
const SIZE = { width: 64, height: 36 }
const longTest = IS_LONG ? test : test.skip

/** How much of a take its server said is on disk. */
interface Acknowledged {
  takeId: string
  chunks: number
  pieces: number
}

const frames = IS_LONG ? recordedFrames({ frames: SECONDS * 30, ...SIZE, first: 480 }) : []
const pieces = piecesOf(frames)
const chunks = IS_LONG ? chunksOf(noise(0.01, SECONDS * 48_000)) : []

/** Sends pieces of sound and picture as fast as they are taken, until the server is gone. */
async function record({ address }: ServerProcess, slideId: string): Promise<Acknowledged> {
  const told: Acknowledged = { takeId: randomUUID(), chunks: 0, pieces: 0 }
  const footageId = randomUUID()
  const app = {
    ask: (path: string, init: RequestInit) => fetch(`${address}${path}`, init),
  }
  try {
    await beginOver(address, told.takeId, slideId)
    await fetch(`${address}/api/takes/${told.takeId}/footage/${footageId}`, {
      method: 'PUT',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ kind: 'screen', codec: 'vp8', ...SIZE }),
    })
    for (let i = 0; i < SECONDS; i++) {
      told.chunks = await chunkOver(address, told.takeId, i, chunks[i]!)
      const answer = await sendPiece(app, told.takeId, footageId, i, pieces[i]!)
      if (!answer.ok) throw new Error(await answer.text())
      told.pieces = ((await answer.json()) as { next: number }).next
    }
  } catch {
    // killed
  }
  return told
}

longTest(
  'whatever moment it is killed in, no piece of sound or picture that was acknowledged is lost',
  { timeout: 3_600_000 },
  async () => {
    const data = mkdtempSync(join(tmpdir(), 'lectern-footage-kills-'))
    const lectureId = await seedFolder(data, 'clouds', 'en', 4)
    const server = await serverProcess(data)
    await server.start()
    const all: Acknowledged[] = []
    try {
      const { slides } = await server.lecture(lectureId)
      for (let n = 0; n < KILLS; n++) {
        const recording = Array.from({ length: AT_ONCE }, (_, i) => record(server, slides[i]!.id))
        await new Promise((resolve) => setTimeout(resolve, 50 + Math.random() * 900))
        await server.kill()
        all.push(...(await Promise.all(recording)))
        await server.start()
      }
      const takes = new Map(
        (await server.lecture(lectureId)).slides.flatMap((slide) => slide.takes).map((take) => [take.id, take]),
      )
      let [seconds, lost] = [0, 0]
      for (const { takeId, chunks: sound, pieces: picture } of all) {
        seconds += picture
        // a take of which no sound came is none, and its pictures are of nobody's voice
        if (sound === 0) continue
        const take = takes.get(takeId)
        const shown = take?.footage[0]
        if ((take?.samples ?? 0) < sound * 48_000) lost++
        if (picture > 0 && (shown?.end ?? 0) < frames[picture * 30 - 1]!.at + 1600) lost++
      }
      console.log(`${KILLS} kills, ${all.length} takes, ${seconds} pieces of picture acknowledged, ${lost} lost`)
      expect(seconds).toBeGreaterThan(KILLS)
      expect(lost).toBe(0)
    } finally {
      await server.kill()
      rmSync(data, { recursive: true, force: true })
    }
  },
)
