/** A school's server that is killed again and again while its people work: what was acknowledged is there, and everybody is still signed in. Runs with `--long`. */
import { randomUUID } from 'node:crypto'
import { expect, test } from 'vitest'
import { type BenchTeacher, withSchool } from '#bench/school/school.ts'
import { crc32 } from '#core/audio/signal/crc32.ts'
import { IS_LONG } from '#tests/support/long.ts'

const TEACHERS = 12
const KILLS = 15
const longTest = IS_LONG ? test : test.skip

/** What a teacher has been told is kept. */
interface Kept {
  scripts: Map<string, string>
  comments: string[]
  takeId: string
  chunks: number
}

const CHUNK = new Uint8Array(48_000 * 2).fill(7)

/** Writes scripts, comments and pieces of a recording as fast as the server takes them, until told to end. */
async function work(address: string, { cookie, lectureId, slideIds }: BenchTeacher, isOver: () => boolean): Promise<Kept> {
  const kept: Kept = { scripts: new Map(), comments: [], takeId: randomUUID(), chunks: 0 }
  const ask = async (method: string, path: string, body: BodyInit, type = 'application/json') => {
    try {
      const headers = { cookie, 'content-type': type, 'x-checksum': String(crc32(CHUNK)) }
      const answer = await fetch(`${address}${path}`, { method, headers, body })
      await answer.arrayBuffer()
      return answer.ok
    } catch {
      // the server was killed: a moment later it is there again
      await new Promise((resolve) => setTimeout(resolve, 50))
      return false
    }
  }
  const json = (method: string, path: string, body: object) => ask(method, path, JSON.stringify(body))
  const take = { slideId: slideIds[0], startedAt: Date.now(), microphone: 'A microphone' }
  let isOpened = false
  for (let n = 0; !isOver(); n++) {
    const slideId = slideIds[n % slideIds.length]!
    const script = `Written for the ${n}th time.`
    if (await json('PATCH', `/api/slides/${slideId}`, { script })) kept.scripts.set(slideId, script)
    else kept.scripts.delete(slideId)
    const text = `Comment ${n}`
    const comment = { slideId, takeId: null, at: null, text, answerTo: null }
    if (await json('POST', `/api/lectures/${lectureId}/comments`, comment)) kept.comments.push(text)
    isOpened ||= await json('PUT', `/api/takes/${kept.takeId}`, take)
    if (!isOpened) continue
    // as a page does: a server that was started anew lets go of a take that had no sound yet, which is begun again
    isOpened = await ask('PUT', `/api/takes/${kept.takeId}/chunks/${kept.chunks}`, CHUNK, 'application/octet-stream')
    if (isOpened) kept.chunks++
  }
  return kept
}

longTest(
  'whatever moment it is killed in, nothing that was acknowledged is lost, and nobody signs in anew',
  { timeout: 280_000 },
  async () => {
    await withSchool(TEACHERS, async (server, teachers) => {
      let isOver = false
      const working = teachers.map((teacher) => work(server.address, teacher, () => isOver))
      for (let n = 0; n < KILLS; n++) {
        await new Promise((resolve) => setTimeout(resolve, 500 + Math.random() * 1500))
        await server.kill()
        await server.start()
      }
      isOver = true
      const kept = await Promise.all(working)
      for (const [i, { scripts, comments, takeId, chunks }] of kept.entries()) {
        const { cookie, lectureId } = teachers[i]!
        const read = async <T>(path: string) => {
          const answer = await fetch(`${server.address}${path}`, { headers: { cookie } })
          expect(answer.status, path).toBe(200)
          return (await answer.json()) as T
        }
        const lecture = await read<{ slides: { id: string; script: string }[] }>(`/api/lectures/${lectureId}`)
        for (const [id, script] of scripts) expect(lecture.slides.find((slide) => slide.id === id)?.script).toBe(script)
        const { comments: there } = await read<{ comments: { text: string }[] }>(`/api/lectures/${lectureId}/comments`)
        const texts = there.map(({ text }) => text)
        expect(comments.filter((text) => !texts.includes(text))).toEqual([])
        // a piece that is sent once more is answered with what there is
        expect(chunks).toBeGreaterThan(0)
        const again = await fetch(`${server.address}/api/takes/${takeId}/chunks/${chunks - 1}`, {
          method: 'PUT',
          headers: { cookie, 'content-type': 'application/octet-stream', 'x-checksum': String(crc32(CHUNK)) },
          body: CHUNK,
        })
        expect(((await again.json()) as { next: number }).next).toBeGreaterThanOrEqual(chunks)
      }
      const total = kept.reduce((sum, { scripts, comments, chunks }) => sum + scripts.size + comments.length + chunks, 0)
      console.log(`${KILLS} kills, ${total} things acknowledged, none lost`)
    })
  },
)
