/** Programs are started by a small process: what they read and write arrives whole, and what happens to either is told. */
import { spawn } from 'node:child_process'
import { randomBytes } from 'node:crypto'
import { mkdtempSync, readdirSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { expect, test, vi } from 'vitest'
import { ffmpegAt } from '#server/media/ffmpeg.ts'
import { launch, readyToLaunch } from '#server/media/launch/launch.ts'

const media = ffmpegAt('ffmpeg')
const PCM = ['-f', 's16le', '-ar', '48000', '-ac', '1', '-i', 'pipe:0', '-f', 's16le', 'pipe:1']
const isThere = (pid: number) => {
  try {
    return process.kill(pid, 0)
  } catch {
    return false
  }
}

test('twenty megabytes go through a program and come back as they were, of several at once each its own', async () => {
  const inputs = [20_000_000, 48_000, 2].map((length) => randomBytes(length))
  const outputs = await Promise.all(inputs.map((input) => media.run(PCM, { input })))
  outputs.forEach((output, i) => {
    expect(output.equals(inputs[i]!)).toBe(true)
  })
})

test('a program that ends early, one that is not there and one that is given up each say so', async () => {
  await expect(media.run(['-f', 'flac', '-i', 'pipe:0', '-f', 'null', '-'], { input: randomBytes(5_000_000) })).rejects.toThrow(
    /ffmpeg ended with \d+: /,
  )
  await expect(ffmpegAt('/nowhere/ffmpeg').run(PCM, { input: randomBytes(5_000_000) })).rejects.toThrow('was not found')
  const giveUp = new AbortController()
  const endless = media.run(['-re', '-f', 'lavfi', '-i', 'sine', '-f', 'null', '-'], { signal: giveUp.signal })
  setTimeout(() => giveUp.abort(new Error('given up')), 200)
  await expect(endless).rejects.toThrow('given up')
})

test('a program that has ended before we come to look at its sockets is read whole all the same', async () => {
  await media.run(PCM, { input: new Uint8Array(4) })
  for (let round = 0; round < 10; round++) {
    const begun = launch('echo', ['all of it'], { hasInput: false })
    // it is started and ends meanwhile: its end may be told before its sockets are seen
    await new Promise((resolve) => setImmediate(resolve))
    const until = performance.now() + 50
    while (performance.now() < until);
    const running = await begun
    let said = ''
    running.stdout.on('data', (text: Buffer) => {
      said += text
    })
    running.stderr.resume()
    expect(await running.ended).toBe(0)
    expect(said).toBe('all of it\n')
  }
}, 20_000)

test('where programs are awaited is gone with the server, however that ended', async () => {
  const folder = mkdtempSync(join(tmpdir(), 'lectern-killed-'))
  try {
    const server = spawn('node', ['dist/server/main.js'], {
      env: { ...process.env, TMPDIR: folder, LECTERN_DATA: join(folder, 'data'), LECTERN_PORT: '0' },
      stdio: 'ignore',
    })
    const sockets = () => readdirSync(folder).filter((name) => name.startsWith('lectern-launch-'))
    await vi.waitFor(() => expect(sockets()).toHaveLength(1), { timeout: 30_000 })
    await vi.waitFor(() => expect(readdirSync(join(folder, sockets()[0]!))).toHaveLength(1), { timeout: 30_000 })
    server.kill('SIGKILL')
    await vi.waitFor(() => expect(sockets()).toEqual([]), { timeout: 30_000 })
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
})

test('when the small process is ended from outside, that is told, what it had started ends as it writes, and a new one begins', async () => {
  const running = await launch('sh', ['-c', 'echo $$; exec yes'], { hasInput: false })
  const pid = await new Promise<number>((resolve) =>
    running.stdout.once('data', (text: Buffer) => resolve(Number.parseInt(text.toString(), 10))),
  )
  const small = readyToLaunch()!
  process.kill(small, 'SIGKILL')
  await expect(running.ended).rejects.toThrow('ended from outside')
  await vi.waitFor(() => expect(isThere(pid)).toBe(false), { timeout: 20_000 })
  expect((await media.run(PCM, { input: new Uint8Array(4) })).length).toBe(4)
  expect(readyToLaunch()).not.toBe(small)
})
