/**
 * `npm run bench -- abuse`: malformed requests, damaged and harmful files, floods and kills against a server of its own on loopback. `--rounds N`
 * is the share of the whole in percent (6,000 requests, 3,900 files, 24 kills); 10 when absent.
 */
import { connect } from 'node:net'
import type { BenchOptions, Figure } from '#bench/report/report.ts'
import { asUserFacing } from '#server/errors/user-facing-error.ts'
import type { JobView } from '#server/events/job-view.ts'
import { damaged } from '#tests/made/damaged.ts'
import { malformedRequest } from '#tests/made/malformed-requests.ts'
import { random } from '#tests/made/sound.ts'
import { sendFile, targetIn } from '#tests/support/target.ts'
import { harmfulFiles, type Whole, wholeFiles } from './files.ts'
import { HANG_MS, type Host, openHost } from './host.ts'
import { KILLED, killDuring } from './kills.ts'

const ALL = { requests: 6000, files: 3900, kills: 24 }
const USUAL_PERCENT = 10
const MOST_MB = 700
/** What is said of a fault of ours. */
const INSIDE = asUserFacing(new Error('any'))

interface Counts {
  requests: number
  files: number
  answered500: number
  /** Jobs that a fault of ours ended, and not the file. */
  failedInside: number
  hangs: number
  crashes: number
  lost: number
  failed: number
  kills: number
}

/** Is told when the server has ended by itself; it is started again, so that the rest can be tried. */
async function aliveAgain(host: Host, counts: Counts, what: string) {
  if (host.server.isRunning()) return
  counts.crashes++
  console.error(`\nThe server ended: ${what}`)
  await host.server.start()
}

async function requests(host: Host, many: number, seed: number, counts: Counts) {
  const target = await targetIn(host.app)
  for (let i = 0; i < many; i++) {
    const { method, path, headers, body } = malformedRequest(target, seed * 1_000_003 + i)
    const init: RequestInit = { method, headers, ...(body === null ? {} : { body: body as BodyInit }) }
    try {
      new Request(`http://localhost${path}`, init)
    } catch {
      continue // it cannot be put into a request at all
    }
    counts.requests++
    const what = `${method} ${path} ${String(body).slice(0, 100)}`
    try {
      const answer = await host.app.ask(path, init)
      if (answer.status >= 500) {
        counts.answered500++
        console.error(`\n${what} → ${answer.status}`)
      }
      await answer.body?.cancel()
    } catch (error) {
      if ((error as Error).name === 'TimeoutError') counts.hangs++
      await aliveAgain(host, counts, what)
    }
    if (i % 100 === 0) process.stderr.write(`\r${i} requests`)
  }
  await host.app.idle()
}

async function take(host: Host, { name, bytes, place }: Whole, slideId: string, lectureId: string, counts: Counts) {
  counts.files++
  const file = new File([bytes as BlobPart], name)
  try {
    const judge = (job: JobView) => {
      if (job.error?.id !== INSIDE.said.id) return
      counts.failedInside++
      console.error(`\n${name} ended a job by a fault inside`)
    }
    if (place === 'sound') judge(await sendFile(host.app, `/api/slides/${slideId}/sounds`, file))
    else if (place === 'bed')
      judge(await sendFile(host.app, `/api/lectures/${lectureId}/beds`, file, { fromSlideId: slideId, toSlideId: slideId }))
    else {
      const form = new FormData()
      form.append(place === 'shelf' ? 'files' : 'file', file)
      form.append('language', 'en')
      const path = {
        shelf: '/api/lectures',
        picture: `/api/slides/${slideId}/pictures`,
        captions: `/api/lectures/${lectureId}/captions`,
      }[place]
      const answer = await host.app.ask(path, { method: 'POST', body: form })
      if (answer.status >= 500) counts.answered500++
      const { job } = (await answer.json()) as { job?: { id: string } }
      if (job) judge(await host.app.ended(job.id))
    }
  } catch (error) {
    if (/Timeout|hangs/.test(`${(error as Error).name} ${error}`)) {
      counts.hangs++
      console.error(`\n${name} hangs`)
    }
    await aliveAgain(host, counts, name)
  }
}

async function files(host: Host, many: number, seed: number, counts: Counts) {
  const { id, slides } = await host.app.newLecture()
  const slideId = slides[0]!.id
  const whole = await wholeFiles()
  const next = random(seed)
  for (let i = 0; i < many; i++) {
    const one = whole[i % whole.length]!
    await take(host, { ...one, bytes: damaged(one.bytes, Math.floor(next() * 2 ** 31)) }, slideId, id, counts)
    if (i % 20 === 0) process.stderr.write(`\r${i} files    `)
  }
  process.stderr.write('\rharmful files    ')
  for (const one of harmfulFiles()) await take(host, one, slideId, id, counts)
  await host.app.idle()
}

/** As much as is taken, to a link that is none. */
function flood(address: string, megabytes: number): Promise<void> {
  const { port } = new URL(address)
  return new Promise((resolve) => {
    const socket = connect(Number(port), '127.0.0.1')
    const piece = Buffer.alloc(1 << 20, 'a')
    socket.on('error', () => {})
    socket.on('data', () => {})
    socket.on('close', () => resolve())
    socket.write(
      `POST /watch/AAAAAAAAAAAAAAAAAAAAAA/entry HTTP/1.1\r\nHost: localhost:${port}\r\nContent-Type: application/json\r\nTransfer-Encoding: chunked\r\n\r\n`,
    )
    let sent = 0
    const more = () => {
      if (sent++ >= megabytes || socket.destroyed) return void socket.end()
      socket.write('100000\r\n')
      socket.write(piece)
      if (socket.write('\r\n')) setImmediate(more)
      else socket.once('drain', more)
    }
    more()
    setTimeout(() => socket.destroy(), HANG_MS / 10)
  })
}

export async function bench({ seed, rounds }: BenchOptions): Promise<Figure[]> {
  const share = (rounds ?? USUAL_PERCENT) / 100
  const counts: Counts = {
    requests: 0,
    files: 0,
    answered500: 0,
    failedInside: 0,
    hangs: 0,
    crashes: 0,
    lost: 0,
    failed: 0,
    kills: 0,
  }
  const host = await openHost()
  try {
    // warm: threads are started, an import has been made, a take tidied
    await requests(host, 0, seed, counts)
    const base = host.memory()
    await requests(host, Math.round(ALL.requests * share), seed, counts)
    await Promise.all(Array.from({ length: 4 }, () => flood(host.server.address, 450)))
    await aliveAgain(host, counts, 'a flood')
    await files(host, Math.round(ALL.files * share), seed, counts)
    const peak = host.mostMemory()
    const most = peak.megabytes - base.megabytes
    const listed = ({ parts }: typeof base) => parts.map((part) => `${part.program} ${Math.round(part.megabytes)}`).join(', ')
    process.stderr.write(`\rMemory, MB: at the beginning ${listed(base)}; at the most ${listed(peak)}\n`)
    const next = random(seed)
    for (let i = 0; i < Math.max(KILLED.length, Math.round(ALL.kills * share)); i++) {
      process.stderr.write(`\r${i} kills        `)
      const outcome = await killDuring(host, KILLED[i % KILLED.length]!, 2500 * next())
      counts.kills++
      counts.lost += outcome.lost
      counts.failed += outcome.failed
    }
    await host.app.idle()
    process.stderr.write('\r                 \n')
    const leftovers = host.scratch().length
    const none = (name: string, value: number, unit: string): Figure => ({ name, value, goal: '0', unit, ok: value === 0 })
    return [
      none('requests answered 500', counts.answered500, `of ${counts.requests + counts.files}`),
      none('jobs that a fault inside ended', counts.failedInside, `of ${counts.files} files`),
      none('hangs', counts.hangs, `of ${counts.requests + counts.files}`),
      none('crashes', counts.crashes, `of ${counts.requests + counts.files}`),
      none('leftovers in the scratch folder', leftovers, 'files'),
      {
        name: 'most memory above the base, with all helpers',
        value: most,
        goal: `≤ ${MOST_MB}`,
        unit: 'MB',
        ok: most <= MOST_MB,
      },
      none('samples lost of what was acknowledged', counts.lost, `samples, ${counts.kills} kills`),
      none('work not done after a kill', counts.failed, `of ${counts.kills}`),
    ]
  } finally {
    await host.close()
  }
}
