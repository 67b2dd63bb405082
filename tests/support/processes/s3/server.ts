/** A real store that speaks S3, on this machine: OpenStack Swift from Debian, with a folder, a key and ports of its own. */
import { type ChildProcess, execFileSync, spawn } from 'node:child_process'
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir, userInfo } from 'node:os'
import { join } from 'node:path'
import { setTimeout as wait } from 'node:timers/promises'
import { CreateBucketCommand, ListObjectsV2Command, S3Client } from '@aws-sdk/client-s3'
import { type StoreSetting, storeSettingOf } from '#server/config/store-setting.ts'
import { freePort } from '../free-port.ts'

const KINDS = ['account', 'container', 'object'] as const

const common = (folder: string, port: number) => `[DEFAULT]
bind_ip = 127.0.0.1
bind_port = ${port}
workers = 0
user = ${userInfo().username}
swift_dir = ${folder}
devices = ${folder}/devices
mount_check = false
disable_fallocate = true
fallocate_reserve = 0
`

function writeSettings(folder: string, proxy: number, memory: number, ports: number[]) {
  mkdirSync(join(folder, 'devices/d1'), { recursive: true })
  writeFileSync(
    join(folder, 'swift.conf'),
    '[swift-hash]\nswift_hash_path_prefix = a\nswift_hash_path_suffix = b\n[storage-policy:0]\nname = Policy-0\ndefault = yes\n',
  )
  for (const [i, kind] of KINDS.entries())
    writeFileSync(
      join(folder, `${kind}.conf`),
      `${common(folder, ports[i]!)}[pipeline:main]\npipeline = ${kind}-server\n[app:${kind}-server]\nuse = egg:swift#${kind}\n`,
    )
  writeFileSync(
    join(folder, 'proxy.conf'),
    `${common(folder, proxy)}[pipeline:main]
pipeline = catch_errors cache s3api tempauth bulk slo proxy-server
[app:proxy-server]
use = egg:swift#proxy
account_autocreate = true
error_suppression_limit = 1000000
[filter:catch_errors]
use = egg:swift#catch_errors
[filter:cache]
use = egg:swift#memcache
memcache_servers = 127.0.0.1:${memory}
[filter:s3api]
use = egg:swift#s3api
location = us-east-1
[filter:tempauth]
use = egg:swift#tempauth
user_school_lectern = secret .admin
[filter:bulk]
use = egg:swift#bulk
[filter:slo]
use = egg:swift#slo
`,
  )
}

export interface S3Server {
  /** @returns the setting of a bucket of its own, made just now */
  newBucket(localGb?: number): Promise<StoreSetting & { text: string }>
  /** Keys of its objects. */
  keys(setting: StoreSetting): Promise<string[]>
  /** Answers nobody from now on. */
  stop(): Promise<void>
  /** Answers again, with what it had. */
  start(): Promise<void>
  close(): Promise<void>
}

const ACCESS = {
  AWS_ACCESS_KEY_ID: 'school:lectern',
  AWS_SECRET_ACCESS_KEY: 'secret',
  AWS_SDK_JS_NODE_VERSION_SUPPORT_WARNING_DISABLED: 'true',
}

/** The key to it is in this process's environment from then on. Needs Debian's swift-proxy, swift-account, swift-container, swift-object and memcached. */
export async function startS3Server(): Promise<S3Server> {
  const folder = mkdtempSync(join(tmpdir(), 'lectern-s3-'))
  const [proxy, memory, ...ports] = [await freePort(), await freePort(), await freePort(), await freePort(), await freePort()]
  writeSettings(folder, proxy, memory, ports)
  execFileSync('/usr/bin/python3', [join(import.meta.dirname, 'rings.py'), folder, ...ports.map(String)])
  Object.assign(process.env, ACCESS)
  const endpoint = `http://127.0.0.1:${proxy}`
  const client = new S3Client({
    ...{ region: 'us-east-1', endpoint, forcePathStyle: true, maxAttempts: 1 },
    ...{ requestChecksumCalculation: 'WHEN_REQUIRED', responseChecksumValidation: 'WHEN_REQUIRED' },
  })
  let running: ChildProcess[] = []
  let buckets = 0

  async function start() {
    const run = (command: string, args: string[]) => spawn(command, args, { stdio: 'ignore' })
    running = [
      run('memcached', ['-u', userInfo().username, '-l', '127.0.0.1', '-p', String(memory), '-m', '16']),
      ...[...KINDS, 'proxy'].map((kind) => run(`swift-${kind}-server`, [join(folder, `${kind}.conf`)])),
    ]
    for (let tries = 0; ; tries++) {
      const made = await client.send(new CreateBucketCommand({ Bucket: 'ready' })).catch((error: Error) => error)
      if (!(made instanceof Error) || made.name === 'BucketAlreadyOwnedByYou') return
      if (tries === 800) throw new Error(`The store of the tests does not start: ${made.message}`, { cause: made })
      await wait(100)
    }
  }
  async function stop() {
    const ended = running.map((child) => new Promise((resolve) => child.once('exit', resolve)))
    for (const child of running) child.kill('SIGKILL')
    await Promise.all(ended)
    running = []
  }
  await start()
  return {
    start,
    stop,
    async newBucket(localGb = 1) {
      const bucket = `lectures-${buckets++}`
      await client.send(new CreateBucketCommand({ Bucket: bucket }))
      const text = `s3://${bucket}/school?endpoint=${endpoint}`
      return { ...storeSettingOf(text, String(localGb))!, text }
    },
    async keys({ bucket, prefix }) {
      const { Contents = [] } = await client.send(new ListObjectsV2Command({ Bucket: bucket, Prefix: prefix }))
      return Contents.map(({ Key }) => Key!)
    },
    async close() {
      client.destroy()
      await stop()
      rmSync(folder, { recursive: true, force: true })
    },
  }
}
