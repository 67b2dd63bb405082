/** Who gets in: names, addresses, forwarders, and requests that bring more than anybody needs. A real server on loopback where sockets matter. */
import { type ChildProcess, spawn } from 'node:child_process'
import { once } from 'node:events'
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { connect } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { brotliCompressSync, brotliDecompressSync } from 'node:zlib'
import { afterAll, describe, expect, test } from 'vitest'
import { configFrom } from '#server/config/config.ts'
import { openTestApp } from '#tests/api/harness.ts'

const status = async (
  app: Awaited<ReturnType<typeof openTestApp>>,
  path: string,
  headers: Record<string, string>,
  address?: string,
) => (await app.ask(path, { headers }, address)).status

describe('behind a forwarder', () => {
  test('on this machine that rewrites Host, nothing is open until it is set up', async () => {
    const app = await openTestApp({ publicHosts: ['lectures.example'] })
    const forwarding: Record<string, string>[] = [
      { 'x-forwarded-for': '192.0.2.7' },
      { forwarded: 'for=192.0.2.7' },
      { via: '1.1 proxy' },
      { 'x-real-ip': '192.0.2.7' },
      { 'x-forwarded-host': 'lectures.example' },
    ]
    for (const headers of forwarding) {
      const answer = await app.ask('/api/lectures', { headers: { host: '127.0.0.1:4870', ...headers } })
      expect(answer.status).toBe(404)
      expect(((await answer.json()) as { error: string }).error).toMatch(/forwarded, and no forwarder is set up/)
      expect(await status(app, '/', { host: 'localhost', ...headers })).toBe(404)
    }
    // one that keeps Host reaches what its name may reach
    expect(await status(app, '/favicon.svg', { host: 'lectures.example', 'x-forwarded-for': '192.0.2.7' })).not.toBe(404)
    expect(await status(app, '/api/lectures', { host: 'lectures.example', 'x-forwarded-for': '192.0.2.7' })).toBe(404)
    await app.end()
  })

  test('that is set up, watch pages open by their public name, cookies are for encrypted lines, and the app by its own name alone', async () => {
    const app = await openTestApp({ publicHosts: ['lectures.example'], appHosts: ['desk.example'], proxies: ['127.0.0.1'] })
    const by = (name: string) => ({
      host: '127.0.0.1:4870',
      'x-forwarded-host': name,
      'x-forwarded-for': '192.0.2.7',
      'x-forwarded-proto': 'https',
    })
    expect(await status(app, '/watch/none/edition', by('lectures.example'))).toBe(404)
    expect(await status(app, '/api/lectures', by('lectures.example'))).toBe(404)
    expect(await status(app, '/api/lectures', by('desk.example'))).toBe(200)
    expect(await status(app, '/api/lectures', by('other.example'))).toBe(404)
    // somebody else on the net who says to be a forwarder is none
    expect(await status(app, '/api/lectures', by('desk.example'), '198.51.100.9')).toBe(404)

    const lecture = await app.newLecture()
    const { token } = (await (await app.json('POST', `/api/lectures/${lecture.id}/links`, { name: 'Class' })).json()) as {
      token: string
    }
    const { job } = (await (await app.json('POST', `/api/lectures/${lecture.id}/editions`, {})).json()) as { job: { id: string } }
    await app.ended(job.id)
    await app.json('PATCH', `/api/links/${token}`, { passcode: 'cirrus' })
    const enter = (passcode: string, address: string, proto = 'https') =>
      app.ask(`/watch/${token}/entry`, {
        method: 'POST',
        headers: {
          ...by('lectures.example'),
          'x-forwarded-for': `10.9.9.9, ${address}`,
          'x-forwarded-proto': proto,
          origin: `${proto}://lectures.example`,
          'content-type': 'application/json',
        },
        body: JSON.stringify({ passcode }),
      })
    for (let i = 0; i < 6; i++) await enter('wrong', '192.0.2.66')
    expect((await enter('cirrus', '192.0.2.66')).status).toBe(429)
    const right = await enter('cirrus', '192.0.2.7')
    expect(right.status).toBe(200)
    expect(right.headers.get('set-cookie')).toMatch(/; Secure/)
    expect((await enter('cirrus', '192.0.2.7', 'http')).headers.get('set-cookie')).not.toMatch(/; Secure/)
    await app.end()
  })
})

test('names are read whatever their capitals and spaces', () => {
  const { publicHosts, proxies } = configFrom(
    { LECTERN_PUBLIC_HOSTS: ' Lectures.Example , other.example:8080,', LECTERN_PROXY: '127.0.0.1' },
    '',
  )
  expect(publicHosts).toEqual(['lectures.example', 'other.example'])
  expect(proxies).toEqual(['127.0.0.1'])
})

test('forms of Host and address: this machine has all, others watch pages, another name on this machine nothing', async () => {
  const app = await openTestApp({ publicHosts: ['lectures.example'] })
  const api = (host: string, address?: string) => status(app, '/api/storage', { host }, address)
  for (const host of ['localhost', 'LOCALHOST:4870', '127.0.0.1', '127.0.0.1:80', '127.0.0.2:4870', '[::1]', '[::1]:4870'])
    expect([host, await api(host)]).toEqual([host, 200])
  for (const host of [
    '',
    'evil.example',
    'localhost.evil.example',
    '127.0.0.1.evil.example',
    'evil.example:4870',
    '0.0.0.0',
    '[::]',
    '10.0.0.1',
    'localhost@evil.example',
    '127.1',
    '2130706433',
    '0x7f000001',
    'lectures.example',
    ' localhost.',
    '[::ffff:127.0.0.1]',
    'localhost,evil.example',
    'xn--localhost',
  ])
    expect([host, await api(host)]).toEqual([host, 404])
  for (const address of ['192.0.2.7', '::ffff:192.0.2.7', '2001:db8::1', '10.0.0.1'])
    expect([address, await api('localhost', address)]).toEqual([address, 404])
  for (const address of ['127.0.0.1', '127.0.0.2', '::1', '::ffff:127.0.0.1']) expect(await api('localhost', address)).toBe(200)
  await app.end()
})

describe('a real server', () => {
  const root = join(import.meta.dirname, '../../..')
  const data = mkdtempSync(join(tmpdir(), 'lectern-access-'))
  let child: ChildProcess
  const started = (env: Record<string, string>) =>
    new Promise<string>((resolve, reject) => {
      child = spawn('node', ['dist/server/main.js'], {
        cwd: root,
        env: { ...process.env, LECTERN_DATA: data, LECTERN_PORT: '0', LECTERN_PREPARE: 'off', ...env },
      })
      child.stdout!.on('data', (text: Buffer) => {
        const address = /is open at (http:\S+)/.exec(String(text))?.[1]
        if (address) resolve(address)
      })
      child.on('exit', () => reject(new Error('It ended')))
    })
  afterAll(() => rmSync(data, { recursive: true, force: true }))

  test('opens at the address it prints, and a stranger without a link brings nothing into its memory', async () => {
    const address = await started({ LECTERN_HOST: '127.0.0.2' })
    expect((await fetch(`${address}/api/lectures`)).status).toBe(200)
    const memory = () => Number(/VmHWM:\s+(\d+) kB/.exec(readFileSync(`/proc/${child.pid}/status`, 'utf8'))![1]) / 1024
    const before = memory()
    const { port } = new URL(address)
    // four times 100 MB to a link that is none, and to the API without end, as fast as they are taken
    const flood = (path: string, type: string) =>
      new Promise<string>((resolve) => {
        const socket = connect(Number(port), '127.0.0.2')
        const piece = Buffer.alloc(1 << 20, 'a')
        let answer = ''
        socket.on('data', (bytes) => {
          answer += bytes
        })
        socket.on('error', () => {})
        socket.on('close', () => resolve(answer.slice(9, 12)))
        socket.write(
          `POST ${path} HTTP/1.1\r\nHost: 127.0.0.2:${port}\r\nContent-Type: ${type}\r\nTransfer-Encoding: chunked\r\n\r\n`,
        )
        let sent = 0
        const more = () => {
          if (sent++ >= 100 || socket.destroyed) return void socket.end('0\r\n\r\n')
          socket.write(`100000\r\n`)
          socket.write(piece)
          if (socket.write('\r\n')) setImmediate(more)
          else socket.once('drain', more)
        }
        more()
        setTimeout(() => socket.destroy(), 8000)
      })
    const answers = await Promise.all([
      flood('/watch/AAAAAAAAAAAAAAAAAAAAAA/entry', 'application/json'),
      flood('/watch/AAAAAAAAAAAAAAAAAAAAAA/entry', 'application/json'),
      flood('/watch/AAAAAAAAAAAAAAAAAAAAAA/views', 'text/plain'),
      flood('/api/lectures/none/cards', 'application/json'),
    ])
    expect(answers.slice(0, 3)).toEqual(['404', '404', '404'])
    expect(answers[3]).toBe('413')
    expect(memory() - before).toBeLessThan(150)
    const exited = once(child, 'exit')
    child.kill('SIGTERM')
    await exited
  })
})

describe('what every answer carries', () => {
  test('pages load only what is ours, and nobody else may show them', async () => {
    const app = await openTestApp()
    for (const path of ['/', '/api/lectures', '/watch/none']) {
      const { headers } = await app.ask(path)
      expect(headers.get('content-security-policy')).toContain("script-src 'self' 'wasm-unsafe-eval';")
      expect(headers.get('content-security-policy')).toContain("frame-ancestors 'none'")
      expect(headers.get('x-content-type-options')).toBe('nosniff')
      expect(headers.get('referrer-policy')).toBe('no-referrer')
      expect(headers.get('permissions-policy')).toMatch(
        /microphone=\(self\), ?camera=\(self\), ?display-capture=\(self\), ?geolocation=\(\)/,
      )
      expect(headers.get('cross-origin-resource-policy')).toBe('same-origin')
    }
    await app.end()
  })

  test('a page elsewhere changes nothing here; a program that is no browser may', async () => {
    const app = await openTestApp()
    const { id } = await app.newLecture()
    const rename = (headers: Record<string, string>) =>
      app.ask(`/api/lectures/${id}`, {
        method: 'PATCH',
        headers: { 'content-type': 'application/json', ...headers },
        body: '{"title":"Rain"}',
      })
    expect((await rename({ origin: 'http://elsewhere.example' })).status).toBe(404)
    expect((await rename({ 'sec-fetch-site': 'cross-site' })).status).toBe(404)
    expect((await rename({ origin: 'http://localhost' })).status).toBe(200)
    expect((await rename({})).status).toBe(200)
    await app.end()
  })

  test('a script comes compressed to a browser that takes it so', async () => {
    const webFolder = mkdtempSync(join(tmpdir(), 'lectern-web-'))
    mkdirSync(join(webFolder, 'assets'))
    const script = `console.log(${JSON.stringify('rain '.repeat(1000))})`
    writeFileSync(join(webFolder, 'assets/a.js'), script)
    writeFileSync(join(webFolder, 'assets/a.js.br'), brotliCompressSync(script))
    const app = await openTestApp({ webFolder })
    const small = await app.ask('/assets/a.js', { headers: { 'accept-encoding': 'gzip, br' } })
    expect(small.headers.get('content-encoding')).toBe('br')
    expect(small.headers.get('content-type')).toMatch(/javascript/)
    expect(small.headers.get('cache-control')).toContain('immutable')
    expect(brotliDecompressSync(Buffer.from(await small.arrayBuffer())).toString()).toBe(script)
    const plain = await app.ask('/assets/a.js')
    expect(plain.headers.get('content-encoding')).toBeNull()
    expect(await plain.text()).toBe(script)
    await app.end()
    rmSync(webFolder, { recursive: true })
  })
})
