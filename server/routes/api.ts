/** The whole API in one type, which the web side's client is made from. */
import { Hono } from 'hono'
import type { JobQueue } from '#server/jobs/queue.ts'
import { Sentence } from '#server/sentence.ts'
import { storageUse } from '#server/store/usage.ts'
import type { Tools } from '#server/tools.ts'
import { bedRoutes } from './beds.ts'
import { captionRoutes } from './captions.ts'
import { editionRoutes } from './editions.ts'
import { fileRoutes } from './files.ts'
import { jobRoutes } from './jobs.ts'
import { lectureRoutes } from './lectures.ts'
import { outRoutes } from './out.ts'
import { recordingRoutes } from './recordings.ts'
import { slideRoutes } from './slides.ts'
import { takeRoutes } from './takes.ts'

export const apiRoutes = (tools: Tools, queue: JobQueue) =>
  new Hono()
    .route('/lectures', lectureRoutes(tools, queue))
    .route('/takes', takeRoutes(tools, queue))
    .route('/files', fileRoutes(tools))
    .route('/', slideRoutes(tools, queue))
    .route('/', bedRoutes(tools, queue))
    .route('/', recordingRoutes(tools, queue))
    .route('/', captionRoutes(tools, queue))
    .route('/', editionRoutes(tools, queue))
    .route('/', outRoutes(tools))
    .route('/', jobRoutes(tools, queue))
    .get('/storage', async (c) => c.json(await storageUse(tools)))
    .all('*', () => {
      throw new Sentence('There is no such thing here.', 404)
    })

export type Api = ReturnType<typeof apiRoutes>
