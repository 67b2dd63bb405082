/** Screen and camera beside a recording under a fault: which pieces of them were made and acknowledged, and how many pictures are in the files in the end. */
import { execFileSync } from 'node:child_process'
import { existsSync } from 'node:fs'
import { join } from 'node:path'
import type { Page } from '@playwright/test'
import type { Take } from '#core/model/take.ts'
import type { ServerProcess } from '#tests/support/processes/server-process.ts'

const sleep = (seconds: number) => new Promise((resolve) => setTimeout(resolve, seconds * 1000))

/** How many pictures each piece has, by its footage and number. */
export interface MadePictures {
  pieces: Map<string, number>
  acknowledged: Set<string>
}
export const noPictures = (): MadePictures => ({ pieces: new Map(), acknowledged: new Set() })

/** Tells of every piece that the page keeps, and of every one that the server acknowledges. */
export async function watchPictures(page: Page, made: MadePictures) {
  await page.exposeFunction('pictureMade', (id: string, pictures: number) => void made.pieces.set(id, pictures))
  await page.exposeFunction('pictureAcknowledged', (id: string) => void made.acknowledged.add(id))
  await page.addInitScript(() => {
    const tell = window as unknown as {
      pictureMade(id: string, pictures: number): Promise<void>
      pictureAcknowledged(id: string): Promise<void>
    }
    const put = IDBObjectStore.prototype.put
    IDBObjectStore.prototype.put = function (this: IDBObjectStore, value: unknown, key?: IDBValidKey) {
      const request = key === undefined ? put.call(this, value) : put.call(this, value, key)
      if (this.name === 'pieces') {
        const bytes = value as Uint8Array
        const pictures = new DataView(bytes.buffer, bytes.byteOffset).getUint32(4, true)
        void tell.pictureMade((key as [string, number]).join(' '), pictures)
      }
      return request
    }
    const original = window.fetch
    window.fetch = async (...given) => {
      const answer = await original(...given)
      const [, footage, piece] = /\/footage\/([\w-]+)\/pieces\/(\d+)$/.exec(String(given[0])) ?? []
      if (footage && answer.ok) void tell.pictureAcknowledged(`${footage} ${piece}`)
      return answer
    }
  })
}

/** The practice camera, and the practice screen instead of the slide. */
export async function choosePictures(page: Page) {
  await page.getByLabel('Camera', { exact: true }).selectOption({ label: 'Practice camera' })
  await page.getByLabel('Your small picture').waitFor()
  await page.getByRole('button', { name: 'Practice screen' }).click()
  await page.getByLabel('The screen that is shared').waitFor()
}

/** Pictures in a stored file; 0 where there is none. */
function picturesIn(data: string, name: string | null): number {
  if (name === null) return 0
  const path = [join(data, 'files', name.slice(0, 2), name), join(data, 'files', name)].find((one) => existsSync(one))
  if (!path) throw new Error(`${name} is not in the folder`)
  const args = ['-v', 'error', '-count_packets', '-select_streams', 'v:0', '-show_entries', 'stream=nb_read_packets']
  return Number(execFileSync('ffprobe', [...args, '-of', 'csv=p=0', path]).toString())
}

const sumOf = (made: MadePictures, footageId: string, wanted: (id: string) => boolean) =>
  [...made.pieces].reduce((sum, [id, pictures]) => (id.startsWith(footageId) && wanted(id) ? sum + pictures : sum), 0)

/**
 * How many pictures are not in the files of a take, once all that can come has come.
 *
 * @param acknowledged pieces that the server had acknowledged when the fault came
 */
export async function lostPictures(
  server: ServerProcess,
  lectureId: string,
  data: string,
  made: MadePictures,
  acknowledged: ReadonlySet<string>,
): Promise<{ acknowledged: number; lostAcknowledged: number; lost: number }> {
  const ids = [...new Set([...made.pieces.keys()].map((id) => id.split(' ')[0]!))]
  const count = async () => {
    const take = (await server.lecture(lectureId)).slides[0]!.takes[0] as Take | undefined
    const files = new Map(take?.footage.map(({ footage }) => [footage.id, footage.original]) ?? [])
    const each = ids.map((id) => {
      const there = picturesIn(data, files.get(id) ?? null)
      return {
        lostAcknowledged: Math.max(0, sumOf(made, id, (piece) => acknowledged.has(piece)) - there),
        lost: Math.max(0, sumOf(made, id, () => true) - there),
      }
    })
    const total = (of: (one: (typeof each)[number]) => number) => each.reduce((sum, one) => sum + of(one), 0)
    return { lostAcknowledged: total((one) => one.lostAcknowledged), lost: total((one) => one.lost) }
  }
  let found = await count()
  for (let i = 0; i < 30 && found.lost > 0; i++) {
    await sleep(0.5)
    found = await count()
  }
  return { acknowledged: ids.reduce((sum, id) => sum + sumOf(made, id, (piece) => acknowledged.has(piece)), 0), ...found }
}
