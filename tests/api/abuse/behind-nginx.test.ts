/** The deployment page, followed: its own words for nginx, with TLS, before a school's server. Needs nginx, and so runs with `--long`. */
import { type ChildProcess, execFileSync, spawn } from 'node:child_process'
import { randomBytes, randomUUID } from 'node:crypto'
import { once } from 'node:events'
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { request } from 'node:https'
import { tmpdir, userInfo } from 'node:os'
import { join } from 'node:path'
import { eq } from 'drizzle-orm'
import { expect, test } from 'vitest'
import { configFrom } from '#server/config/config.ts'
import { type Database, openDatabase } from '#server/db/database.ts'
import { serverKeys } from '#server/db/people-schema.ts'
import { editionFiles, editions, links, steps } from '#server/db/schema.ts'
import { giveRight } from '#server/people/lecture-rights.ts'
import { createPerson } from '#server/people/people.ts'
import { signInLibrary } from '#server/people/sign-in.ts'
import { type FileStore, folderStore } from '#server/storage/file-store.ts'
import { changeLink, makeLink } from '#server/watch/links.ts'
import { IS_LONG } from '#tests/support/long.ts'
import { serverProcess } from '#tests/support/processes/server-process.ts'
import { seedLecture } from '#tests/support/seed.ts'

const NAME = 'lectures.example'
const PASSWORD = 'a long enough word'

interface Answer {
  status: number
  headers: Record<string, string | string[] | undefined>
  body: Buffer
}

/** Asks as a browser that was told where the name leads. */
async function ask(
  port: number,
  path: string,
  init: { method?: string; headers?: Record<string, string>; body?: string } = {},
): Promise<Answer> {
  const asked = request({
    ...{ host: '127.0.0.1', port, path, method: init.method ?? 'GET', rejectUnauthorized: false, servername: NAME },
    headers: { host: NAME, ...init.headers },
  })
  asked.end(init.body)
  const [answer] = (await once(asked, 'response')) as [import('node:http').IncomingMessage]
  const pieces: Buffer[] = []
  for await (const piece of answer) pieces.push(piece as Buffer)
  return { status: answer.statusCode!, headers: answer.headers, body: Buffer.concat(pieces) }
}

/** The page's own block for nginx, on other ports and folders. */
function nginxConfig(folder: string, port: number, appPort: number, dataFolder: string): string {
  const page = readFileSync(join(import.meta.dirname, '../../../docs/deployment.md'), 'utf8')
  const block = /```nginx\n([\s\S]*?)```/.exec(page)![1]!
  const here = block
    .replace(
      'listen 443 ssl;',
      `listen 127.0.0.1:${port} ssl;\n  ssl_certificate ${folder}/cert.pem;\n  ssl_certificate_key ${folder}/key.pem;`,
    )
    .replaceAll('http://127.0.0.1:4870', `http://127.0.0.1:${appPort}`)
    .replaceAll('/srv/lectern/files/', `${dataFolder}/files/`)
    .replace('/var/cache/nginx/lectern', `${folder}/cache`)
  const temporary = ['client_body', 'proxy', 'fastcgi', 'uwsgi', 'scgi']
    .map((kind) => `${kind}_temp_path ${folder}/${kind};`)
    .join(' ')
  return `${userInfo().uid === 0 ? 'user root;' : ''} daemon off; pid ${folder}/pid; error_log ${folder}/error.log;
events {} http { access_log off; ${temporary} ${here} }`
}

const VIDEO = randomBytes(100_000)

/** An edition whose video is bytes that nobody decodes, behind a link for all, one with a passcode and one for people of the school. */
async function layEdition(db: Database, store: FileStore, lectureId: string) {
  const id = randomUUID()
  const file = await store.put(VIDEO)
  const manifest = { title: 'Clouds', language: 'en', lengthSamples: 48_000, chapters: [], captions: [], checks: [] }
  await db.write(async (tx) => {
    await tx.insert(editions).values({ id, lectureId, number: 1, createdAt: Date.now(), manifest })
    const row = { editionId: id, name: 'video.mp4', file, bytes: VIDEO.length, contentType: 'video/mp4' }
    await tx.insert(editionFiles).values(row)
  })
  const tokens = [
    await makeLink(db, lectureId, 'All'),
    await makeLink(db, lectureId, 'Class'),
    await makeLink(db, lectureId, 'School'),
  ]
  await changeLink(db, tokens[1]!, { passcode: 'seven rain' })
  await changeLink(db, tokens[2]!, { needsSignIn: true })
  const [all, passcode, people] = tokens as [string, string, string]
  const videoOf = (token: string) => `/watch/${token}/files/${id}/video.mp4`
  return { all, passcode, people, videoOf }
}

/** Videos come from disk by a permission that is kept for a moment, which is nobody else's. */
async function videosFrom(
  port: number,
  { all, passcode, people: school, videoOf }: Awaited<ReturnType<typeof layEdition>>,
  cookie: string,
  dataFolder: string,
) {
  const range = { range: 'bytes=100-199' }
  const part = VIDEO.subarray(100, 200).toString('hex')
  const open = await ask(port, videoOf(all), { headers: range })
  expect([open.status, open.headers['content-type'], open.body.toString('hex')]).toEqual([206, 'video/mp4', part])
  expect(open.headers['x-lectern-file']).toBe(undefined)
  expect((await ask(port, videoOf(all))).body.equals(VIDEO)).toBe(true)
  // what is kept has a name, which the app gives it
  const kept = await ask(port, `${videoOf(all)}?download`)
  expect([kept.status, kept.headers['content-disposition']]).toEqual([200, expect.stringContaining('Clouds')])
  // who may see it makes it nobody else's
  for (let n = 0; n < 2; n++) {
    expect((await ask(port, videoOf(school), { headers: { cookie, ...range } })).status).toBe(206)
    const stranger = await ask(port, videoOf(school), { headers: range })
    expect([stranger.status, stranger.body.toString()]).toEqual([401, expect.stringContaining('"error"')])
    expect((await ask(port, videoOf(passcode), { headers: { cookie, ...range } })).status).toBe(401)
  }
  const headers = { 'content-type': 'application/json', origin: `https://${NAME}` }
  const entered = await ask(port, `/watch/${passcode}/entry`, { method: 'POST', headers, body: '{"passcode":"seven rain"}' })
  const admitted = [entered.headers['set-cookie'] ?? []].flat()[0]!.split(';')[0]!
  expect((await ask(port, videoOf(passcode), { headers: { ...range, cookie: admitted } })).status).toBe(206)
  expect((await ask(port, videoOf(passcode), { headers: range })).status).toBe(401)
  expect((await ask(port, videoOf(passcode), { headers: { ...range, cookie: `${admitted}x` } })).status).toBe(401)
  expect((await ask(port, videoOf('none'))).status).toBe(404)
  expect((await ask(port, '/lectern-may')).status).toBe(404)
  // a link that is closed opens nothing a moment later
  const db = await openDatabase(dataFolder)
  await db.write((tx) => tx.update(links).set({ revokedAt: Date.now() }).where(eq(links.token, all)))
  db.close()
  await expect
    .poll(async () => (await ask(port, videoOf(all), { headers: range })).status, { timeout: 15_000, interval: 500 })
    .toBe(404)
}

const longTest = IS_LONG ? test : test.skip

longTest(
  'nginx as the page has it: people sign in by https, pictures come from disk to who may see them, and to nobody else',
  async () => {
    const dataFolder = mkdtempSync(join(tmpdir(), 'lectern-nginx-'))
    const folder = mkdtempSync(join(tmpdir(), 'lectern-nginx-conf-'))
    let nginx: ChildProcess | null = null
    const settings = { LECTERN_MODE: 'school', LECTERN_PUBLIC_URL: `https://${NAME}`, LECTERN_PROXY: '127.0.0.1' }
    // somebody with a lecture is there before the server is
    const db = await openDatabase(dataFolder)
    await db.write((tx) => tx.insert(serverKeys).values({ name: 'sign-in', value: 'of the test' }))
    const library = signInLibrary(configFrom(settings, ''), db, 'of the test')
    const mira = await createPerson(library, db, {
      name: 'Mira',
      email: 'mira@school.example',
      role: 'teacher',
      password: PASSWORD,
    })
    const lectureId = await seedLecture(db, folderStore(dataFolder), 'clouds')
    await db.write((tx) => giveRight(tx, lectureId, mira.id, 'own'))
    const watched = await layEdition(db, folderStore(dataFolder), lectureId)
    const [step] = await db.read.select().from(steps).where(eq(steps.position, 0))
    db.close()
    const server = await serverProcess(dataFolder, settings)
    try {
      await server.start()
      const appPort = Number(new URL(server.address).port)
      const port = appPort + 1
      mkdirSync(folder, { recursive: true })
      execFileSync(
        'openssl',
        [
          'req',
          '-x509',
          '-newkey',
          'rsa:2048',
          '-nodes',
          '-keyout',
          `${folder}/key.pem`,
          '-out',
          `${folder}/cert.pem`,
          '-days',
          '1',
          '-subj',
          `/CN=${NAME}`,
        ],
        { stdio: 'ignore' },
      )
      writeFileSync(join(folder, 'nginx.conf'), nginxConfig(folder, port, appPort, dataFolder))
      nginx = spawn('nginx', ['-c', join(folder, 'nginx.conf'), '-p', folder], { stdio: 'inherit' })
      await expect
        .poll(
          () =>
            ask(port, '/healthz').then(
              ({ status }) => status,
              () => 0,
            ),
          { timeout: 10_000 },
        )
        .toBe(200)

      const picture = `/api/files/${step!.picture}.png`
      expect((await ask(port, picture)).status).toBe(401)
      const body = JSON.stringify({ email: 'mira@school.example', password: PASSWORD })
      const headers = { 'content-type': 'application/json', origin: `https://${NAME}` }
      const signed = await ask(port, '/api/sign-in', { method: 'POST', headers, body })
      expect(signed.status, signed.body.toString()).toBe(200)
      const cookies = [signed.headers['set-cookie'] ?? []].flat()
      for (const line of cookies) expect(line).toMatch(/; secure/i)
      const cookie = cookies.map((line) => line.split(';')[0]).join('; ')

      // from disk, whole and in part, and what says where it lies goes no further than the forwarder
      const stored = readFileSync(join(dataFolder, 'files', step!.picture.slice(0, 2), step!.picture))
      const whole = await ask(port, picture, { headers: { cookie } })
      expect([whole.status, whole.headers['content-type'], whole.headers['x-accel-redirect']]).toEqual([
        200,
        'image/png',
        undefined,
      ])
      expect(whole.body.equals(stored)).toBe(true)
      const part = await ask(port, picture, { headers: { cookie, range: 'bytes=10-19' } })
      expect([part.status, part.body.toString('hex')]).toEqual([206, stored.subarray(10, 20).toString('hex')])
      // the folder itself is nobody's
      expect(
        (await ask(port, `/lectern-files/${step!.picture.slice(0, 2)}/${step!.picture}`, { headers: { cookie } })).status,
      ).toBe(404)
      await videosFrom(port, watched, cookie, dataFolder)
      // another page cannot post here, and figures are for this machine
      const foreign = { method: 'POST', headers: { ...headers, origin: 'https://other.example' }, body }
      expect((await ask(port, '/api/sign-in', foreign)).status).toBe(404)
      expect((await ask(port, '/metrics', { headers: { cookie } })).status).toBe(404)
      // without the forwarder the name opens nothing it should not
      const direct = await fetch(`${server.address}${picture}`, { headers: { 'x-sendfile-type': 'X-Accel-Redirect' } })
      expect(direct.status).toBe(401)
    } finally {
      nginx?.kill('SIGTERM')
      if (server.isRunning()) await server.kill()
      for (const each of [dataFolder, folder]) rmSync(each, { recursive: true, force: true })
    }
  },
)
