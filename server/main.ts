/** Starts the server and says where it listens. */
import { join } from 'node:path'
import { type HttpBindings, serve } from '@hono/node-server'
import { openApp } from './app.ts'
import { configFrom } from './config.ts'

const webFolder = join(import.meta.dirname, import.meta.filename.endsWith('.ts') ? '../dist/web' : '../web')
const config = configFrom(process.env, webFolder)
const opened = await openApp(config)
const server = serve(
  { fetch: (request, env) => opened.app.fetch(request, env as HttpBindings), port: config.port, hostname: config.host },
  (info) => {
    console.log(`Tidy Lectern is open at http://${config.host === '127.0.0.1' ? 'localhost' : config.host}:${info.port}`)
    console.log(`Your lectures are in ${config.dataFolder}. Stop with Ctrl+C; nothing needs saving.`)
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
