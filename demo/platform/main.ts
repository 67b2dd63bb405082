/** `./lectern platform`: opens the practice platform. */
import { serve } from '@hono/node-server'
import { platformApp } from './platform.ts'

const port = Number(process.env.LECTERN_PLATFORM_PORT ?? 4747)
const { app, courses } = platformApp(process.env.LECTERN_ADDRESS)
const server = serve({ fetch: app.fetch, port, hostname: '127.0.0.1' }, ({ port: open }) => {
  console.log(`The practice platform is open at http://localhost:${open}. Stop with Ctrl+C; it forgets everything then.`)
})
server.on('error', (error: NodeJS.ErrnoException) => {
  console.error(
    error.code === 'EADDRINUSE'
      ? `Port ${port} is taken. Choose another with LECTERN_PLATFORM_PORT.`
      : `The practice platform cannot listen: ${error.message}`,
  )
  process.exit(1)
})
for (const signal of ['SIGINT', 'SIGTERM'])
  process.on(signal, () => {
    for (const course of courses) course.end()
    process.exit(0)
  })
