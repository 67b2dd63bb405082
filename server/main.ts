/** Starts the server and says where it listens. */
import { join } from 'node:path'
import { type HttpBindings, serve } from '@hono/node-server'
import { openApp } from './app.ts'
import { configFrom } from './config/config.ts'
import { SettingError } from './config/setting-error.ts'
import { lostRecordings } from './domain/lectures/found-again.ts'
import { UserFacingError } from './errors/user-facing-error.ts'

const webFolder = join(import.meta.dirname, import.meta.filename.endsWith('.ts') ? '../dist/web' : '../web')

/** One sentence and no stack: what is wrong is with the folder or the settings. */
function refuse(error: unknown): never {
  console.error(error instanceof UserFacingError || error instanceof SettingError ? error.message : error)
  process.exit(1)
}
const config = await Promise.resolve()
  .then(() => configFrom(process.env, webFolder))
  .catch(refuse)
const opened = await openApp(config).catch(refuse)
const server = serve(
  { fetch: (request, env) => opened.app.fetch(request, env as HttpBindings), port: config.port, hostname: config.host },
  (info) => {
    console.log(`Tidy Lectern is open at http://${config.host === '127.0.0.1' ? 'localhost' : config.host}:${info.port}`)
    const code = opened.context.school?.setUpCode() ?? null
    if (code !== null) console.log(`Nobody is here yet. The first visitor becomes the administrator with the code ${code}`)
    console.log(`Your lectures are in ${config.dataFolder}. Stop with Ctrl+C; nothing needs saving.`)
    void lostRecordings(opened.context).then((lost) => {
      if (lost.length > 0)
        console.log(
          `${lost.length} ${lost.length === 1 ? 'recording' : 'recordings'} in this folder belong to no lecture. Bring them back as a lecture with ./lectern found-again`,
        )
    }, console.error)
  },
)
server.on('error', (error: NodeJS.ErrnoException) => {
  console.error(
    error.code === 'EADDRINUSE'
      ? `Port ${config.port} is taken. Is Tidy Lectern open already? Choose another with LECTERN_PORT.`
      : `The server cannot listen: ${error.message}`,
  )
  process.exit(1)
})

let ending = false
async function end() {
  if (ending) process.exit(1)
  ending = true
  server.close()
  if ('closeAllConnections' in server) server.closeAllConnections()
  await opened.close()
  process.exit(0)
}
process.on('SIGINT', end)
process.on('SIGTERM', end)
