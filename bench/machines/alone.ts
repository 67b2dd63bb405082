/** One machine and no queue: works the tasks of a file on the files of a folder, and says how long it took. FOLDER FILE AT_ONCE */
import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import pMap from 'p-map'
import { ffmpegAt } from '#server/media/ffmpeg.ts'
import { readyToLaunch } from '#server/media/launch/launch.ts'
import { folderStore } from '#server/storage/file-store.ts'
import type { EncodeOrder } from '#server/tasks/task.ts'
import { tasksHere } from '#server/tasks/work.ts'
import { startWorkers } from '#server/workers/pool.ts'

const [given = '', file = '', atOnce = '1'] = process.argv.slice(2)
const folder = mkdtempSync(join(tmpdir(), 'lectern-bench-alone-'))
readyToLaunch()
const workers = startWorkers()
const [from, store] = [folderStore(given), folderStore(folder)]
const orders = JSON.parse(readFileSync(file, 'utf8')) as EncodeOrder[]
for (const name of await from.all()) await store.put(await from.read(name))
const tasks = tasksHere({ store, media: ffmpegAt('ffmpeg'), workers })
const signal = new AbortController().signal
const began = performance.now()
await pMap(orders, (order) => tasks.run('encode', order, signal), { concurrency: Number(atOnce) })
console.log(JSON.stringify({ ms: performance.now() - began }))
await workers.close()
rmSync(folder, { recursive: true, force: true })
process.exit(0)
