/**
 * One fault while somebody records, with a real browser and a real server: which pieces of sound were made, which of them the server
 * had acknowledged, and which are in the take in the end.
 */
import { execFileSync } from 'node:child_process'
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { type BrowserContext, chromium, type Page } from '@playwright/test'
import { importDeck } from '#bench/measure/import-deck.ts'
import { crc32 } from '#core/audio/signal/crc32.ts'
import { BROWSER } from '#tests/support/browser.ts'
import { type ServerProcess, serverProcess } from '#tests/support/processes/server-process.ts'
import { choosePictures, lostPictures, noPictures, watchPictures } from './pictures.ts'

export const FAULTS = ['server killed', 'browser killed', 'network dropped', 'disk full'] as const
export type Fault = (typeof FAULTS)[number]

export interface Outcome {
  fault: Fault
  /** Samples that the server had acknowledged when the fault came, and how many of them are not in the take. */
  acknowledged: number
  lostAcknowledged: number
  /** Samples recorded that are not in the take. */
  lost: number
  /** The same of pictures of screen and camera. */
  pictures: { acknowledged: number; lostAcknowledged: number; lost: number }
  /** Seconds from the end of the fault until the take was whole. */
  wholeAfter: number
}

const sleep = (seconds: number) => new Promise((resolve) => setTimeout(resolve, seconds * 1000))

/** Pieces as the page makes them: checksum and samples, by number. */
interface Made {
  pieces: Map<number, { crc: number; samples: number }>
  acknowledged: Set<number>
}

/** Tells of every piece that the page keeps, and of every one that the server acknowledges, before anything can happen to the page. */
async function watch(page: Page, made: Made) {
  await page.exposeFunction('pieceMade', (number: number, base64: string) => {
    const bytes = Buffer.from(base64, 'base64')
    made.pieces.set(number, { crc: crc32(bytes), samples: bytes.length / 2 })
  })
  await page.exposeFunction('pieceAcknowledged', (number: number) => void made.acknowledged.add(number))
  await page.addInitScript(() => {
    const tell = window as unknown as {
      pieceMade(n: number, base64: string): Promise<void>
      pieceAcknowledged(n: number): Promise<void>
    }
    const put = IDBObjectStore.prototype.put
    IDBObjectStore.prototype.put = function (this: IDBObjectStore, value: unknown, key?: IDBValidKey) {
      if (this.name === 'chunks') {
        let text = ''
        for (const byte of value as Uint8Array) text += String.fromCharCode(byte)
        void tell.pieceMade((key as [string, number])[1], btoa(text))
      }
      return key === undefined ? put.call(this, value) : put.call(this, value, key)
    }
    const original = window.fetch
    window.fetch = async (...given) => {
      const answer = await original(...given)
      const number = /\/chunks\/(\d+)$/.exec(String(given[0]))?.[1]
      if (number && answer.ok) void tell.pieceAcknowledged(Number(number))
      return answer
    }
    localStorage.setItem('countdown', '0')
    localStorage.setItem('microphone', 'practice')
  })
}

const openBrowser = (profile: string): Promise<BrowserContext> =>
  chromium.launchPersistentContext(profile, {
    ...BROWSER,
    viewport: { width: 1280, height: 800 },
    permissions: ['microphone', 'camera'],
  })

/** A disk of a few megabytes that can be filled; null where none can be mounted. */
function smallDisk(): string | null {
  const folder = mkdtempSync(join(tmpdir(), 'lectern-disk-'))
  try {
    execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=24m', 'tmpfs', folder], { stdio: 'ignore' })
    return folder
  } catch {
    rmSync(folder, { recursive: true, force: true })
    return null
  }
}

/** kill -9 for every process that names the profile; procps need not be there. */
function killAll(profile: string) {
  for (const pid of readdirSync('/proc').filter((name) => /^\d+$/.test(name))) {
    try {
      if (readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes(profile)) process.kill(Number(pid), 'SIGKILL')
    } catch {
      // gone already
    }
  }
}

/** Fills a disk to the last byte. @returns what makes room again */
function fill(folder: string): () => void {
  const ballast = join(folder, 'ballast')
  try {
    writeFileSync(ballast, Buffer.alloc(64 * 1024 * 1024))
  } catch {
    // full, as it should be
  }
  return () => rmSync(ballast, { force: true })
}

/** Whether a full disk can be made here. */
export function canFillDisks(): boolean {
  const disk = smallDisk()
  if (disk) execFileSync('umount', [disk])
  return disk !== null
}

/** Opens the booth of the lecture, or of a link as a guest. @returns the address to come back to after the browser was killed */
async function enter(page: Page, server: ServerProcess, id: string, isGuest: boolean): Promise<string> {
  if (!isGuest) {
    await page.goto(`${server.address}/lectures/${id}/booth`)
    await choosePictures(page)
    return `${server.address}/lectures/${id}`
  }
  const [slide] = (await server.lecture(id)).slides
  const answer = await fetch(`${server.address}/api/lectures/${id}/voiceLinks`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ kind: 'guest', name: 'A guest', slideIds: [slide!.id] }),
  })
  const booth = `${server.address}/record/${((await answer.json()) as { token: string }).token}`
  await page.goto(booth)
  await page.getByLabel('Your name').fill('A guest')
  await page.getByRole('button', { name: 'To the booth' }).click()
  return booth
}

/** A guest's recording is theirs until it is sent: found again, it waits in the booth of whoever comes back. */
async function send(page: Page) {
  const button = page.getByRole('button', { name: 'Send recording 1' })
  await button.waitFor({ timeout: 120_000 })
  await button.click()
}

/**
 * @param before seconds recorded before the fault
 * @param during seconds it lasts
 * @param isGuest who records came by a link
 */
export async function playRound(
  fault: Fault,
  { before, during, isGuest = false }: { before: number; during: number; isGuest?: boolean },
): Promise<Outcome> {
  const disk = fault === 'disk full' ? smallDisk() : null
  const data = disk ?? mkdtempSync(join(tmpdir(), 'lectern-faults-'))
  const profile = mkdtempSync(join(tmpdir(), 'lectern-profile-'))
  const server = await serverProcess(data)
  await server.start()
  let context = await openBrowser(profile)
  const made: Made = { pieces: new Map(), acknowledged: new Set() }
  const filmed = noPictures()
  try {
    const id = await importDeck(server)
    const page = context.pages()[0] ?? (await context.newPage())
    await watch(page, made)
    await watchPictures(page, filmed)
    const back = await enter(page, server, id, isGuest)
    await page.getByRole('button', { name: /^Record/ }).click()
    await page.getByRole('button', { name: /^Stop/ }).waitFor()
    await sleep(before)
    const acknowledged = [...made.acknowledged]
    const acknowledgedPictures = new Set(filmed.acknowledged)
    let ended = Date.now()
    if (fault === 'browser killed') {
      // every process of this profile, as when the power is cut
      killAll(profile)
      await sleep(0.5 + during)
      context = await openBrowser(profile)
      ended = Date.now()
      await (context.pages()[0] ?? (await context.newPage())).goto(back)
    } else {
      const over = await begin(fault, server, context, data)
      await sleep(during)
      await over()
      await sleep(1)
      ended = Date.now()
      await page.keyboard.press('r')
    }
    if (isGuest) await send(context.pages()[0]!)
    const { samples, sound } = await wholeTake(server, id, fault === 'browser killed')
    const pcm = await pieces(server, sound, samples)
    const kept = (number: number) => pcm.get(number) === made.pieces.get(number)?.crc
    const lostOf = (numbers: Iterable<number>) =>
      [...numbers].filter((n) => !kept(n)).reduce((sum, n) => sum + (made.pieces.get(n)?.samples ?? 0), 0)
    const wholeAfter = (Date.now() - ended) / 1000
    const pictures = isGuest
      ? { acknowledged: 0, lostAcknowledged: 0, lost: 0 }
      : await lostPictures(server, id, data, filmed, acknowledgedPictures)
    return {
      fault,
      pictures,
      acknowledged: acknowledged.reduce((sum, n) => sum + (made.pieces.get(n)?.samples ?? 0), 0),
      lostAcknowledged: lostOf(acknowledged),
      lost: lostOf(made.pieces.keys()),
      wholeAfter,
    }
  } finally {
    await context.close().catch(() => {})
    if (server.isRunning()) await server.kill()
    if (disk) execFileSync('umount', ['-l', disk])
    for (const folder of [data, profile]) rmSync(folder, { recursive: true, force: true })
  }
}

/** @returns what ends the fault */
async function begin(fault: Fault, server: ServerProcess, context: BrowserContext, data: string): Promise<() => Promise<void>> {
  if (fault === 'server killed') {
    await server.kill()
    return () => server.start()
  }
  if (fault === 'network dropped') {
    await context.setOffline(true)
    return () => context.setOffline(false)
  }
  const makeRoom = fill(data)
  return async () => makeRoom()
}

async function wholeTake(server: ServerProcess, id: string, recovered: boolean): Promise<{ samples: number; sound: string }> {
  for (let i = 0; i < 600; i++) {
    const take = (await server.lecture(id)).slides[0]!.takes[0]
    if (take?.state === 'sealed' && take.sound && take.recovered === recovered)
      return { samples: take.samples, sound: take.sound }
    await sleep(0.1)
  }
  throw new Error(`The take never became whole: ${JSON.stringify((await server.lecture(id)).slides[0]!.takes).slice(0, 400)}`)
}

/** Checksums of the take, second by second. */
async function pieces(server: ServerProcess, sound: string, samples: number): Promise<Map<number, number>> {
  const flac = Buffer.from(await (await fetch(`${server.address}/api/files/${sound}.flac`)).arrayBuffer())
  const raw = execFileSync('ffmpeg', ['-v', 'error', '-i', '-', '-f', 's16le', '-'], { input: flac, maxBuffer: 1e9 })
  if (raw.length !== samples * 2) throw new Error('The file of the take is not as long as the take')
  const count = Math.ceil(samples / 48_000)
  return new Map(Array.from({ length: count }, (_, n) => [n, crc32(raw.subarray(n * 96_000, (n + 1) * 96_000))]))
}
